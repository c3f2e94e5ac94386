import { verbFacts } from '@/core/route/verbs';
import type { Person } from '@/server/admin/people';
import type { InputOf, OutputOf, QueryName } from './client';
import { noFilter } from './noFilter';

/**
 * The first questions of each page. They are answered with the page when it is loaded, and asked ahead while somebody is
 * about to go there, so that a page begins with what it is about. What a leaf asks comes when it opens.
 */
export interface First {
  readonly name: QueryName;
  readonly input: object;
  /** A list that comes in pages, of which this is the first. */
  readonly paged: boolean;
  /** What can be asked only once this is answered. */
  readonly next: (answer: unknown) => readonly First[];
}

/** Under which key the answer to a question is kept. */
export function keyOf(name: QueryName, input: object, base = ''): readonly unknown[] {
  return ['ask', name, input, base];
}

/** Under which key a list that comes in pages is kept. */
export function pagesKeyOf(name: QueryName, input: object): readonly unknown[] {
  return ['ask', name, input];
}

function one<N extends QueryName>(
  name: N,
  input: InputOf<N>,
  next: (answer: OutputOf<N>) => readonly First[] = () => [],
): First {
  return { name, input: input as object, paged: false, next: next as First['next'] };
}

function list<N extends QueryName>(name: N, input: Omit<InputOf<N>, 'after'>): First {
  return { name, input, paged: true, next: () => [] };
}

/** What every page asks. */
export const me = one('session.me', {});
const types = one('register.types', {});
const organization = one('organization.view', {});

/** What stands in the address of a page after its place: of what, which part of it, which seat; and its query. */
interface Address {
  readonly of: string | undefined;
  readonly part: string | undefined;
  readonly seat: string | undefined;
  readonly query: URLSearchParams;
}

const ofCirculation: Readonly<Record<string, (circulation: string, address: Address) => readonly First[]>> = {
  control: (circulation, { query }) => {
    const at = Number(query.get('at'));
    return [
      at > 0 ? one('circulation.asItWas', { circulation, sequence: at }) : one('circulation.view', { circulation }),
      organization,
      types,
      one('told.level', { circulation }),
      one('notes.view', { circulation }),
    ];
  },
  plan: (circulation) => [one('circulation.view', { circulation }), organization, types, one('forecast.usual', {})],
  act: (circulation, { seat }) => [
    one('circulation.view', { circulation }, (view) => {
      const own = view.seats.find(({ id }) => id === seat);
      return own?.mine && verbFacts[own.verb].signs ? [one('seat.mine', { circulation, seat: own.id })] : [];
    }),
    organization,
  ],
  read: (circulation) => [one('circulation.view', { circulation }), organization],
  fields: (circulation) => [one('circulation.view', { circulation }), organization],
};

/** By the place that a path begins with. */
const ofPlace: Readonly<Record<string, (address: Address) => readonly First[]>> = {
  desk: ({ of }) =>
    of === 'late'
      ? [one('desk.late', {})]
      : [list('desk.tasks', { filter: '' }), one('desk.view', {}), one('told.list', { all: false }), organization],
  circulations: (address) => {
    const { of, part = 'control', query } = address;
    if (of === undefined)
      return [list('circulation.list', { ...noFilter, filter: query.get('find') ?? '', order: 'need' }), organization];
    return of === 'load'
      ? [one('desk.load', {}), types]
      : Object.hasOwn(ofCirculation, part)
        ? (ofCirculation[part]?.(of, address) ?? [])
        : [];
  },
  draft: ({ of }) => (of === undefined ? [] : [one('draft.view', { change: of })]),
  register: ({ of }) => {
    if (of === undefined) return [list('register.list', { filter: '' }), types];
    return of === 'new' ? [types] : [one('record.view', { record: of }), types];
  },
  people: ({ of, query }) =>
    of === undefined
      ? [list('people.list', { filter: query.get('find') ?? '' })]
      : [one('people.held', { person: of }), organization, types],
  me: () => [one('session.list', {}), one('feed.view', {}), one('told.preferences', {}), organization, types],
  organization: () => [organization],
  types: () => [types],
  post: () => [list('post.list', { filter: '' })],
};

/** The first questions of the page at a path with its query; none for a path that is no page of a member. */
export function firstsOf(address: string): readonly First[] {
  const { pathname, searchParams: query } = new URL(address, 'http://localhost');
  // Our ids need no escape; what has one is nobody's.
  const [place = '', of, part, seat] = pathname.split('/').slice(1);
  return Object.hasOwn(ofPlace, place) ? (ofPlace[place]?.({ of, part, seat, query }) ?? []) : [];
}

/** An answer that is handed on with a page. */
interface Answer {
  readonly first: Pick<First, 'name' | 'input' | 'paged'>;
  readonly value: unknown;
}

/** What comes with a page: the answers to its first questions, and whoever is named in them. */
export interface Handed {
  readonly answers: readonly Answer[];
  readonly people: readonly Person[];
  /** When they were given, in milliseconds of the server's machine. */
  readonly at: number;
}
