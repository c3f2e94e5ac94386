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

function ofCirculation(circulation: string, page: string | undefined, seat: string | undefined, at: number): First[] {
  const about = one('circulation.view', { circulation });
  switch (page) {
    case undefined:
      return [
        at > 0 ? one('circulation.asItWas', { circulation, sequence: at }) : about,
        organization,
        types,
        one('told.level', { circulation }),
        one('notes.view', { circulation }),
      ];
    case 'plan':
      return [about, organization, types, one('forecast.usual', {})];
    case 'act':
      return [
        one('circulation.view', { circulation }, (view) => {
          const own = view.seats.find(({ id }) => id === seat);
          return own?.mine && verbFacts[own.verb].signs ? [one('seat.mine', { circulation, seat: own.id })] : [];
        }),
        organization,
      ];
    default:
      return [about, organization];
  }
}

/** The first questions of the page at a path with its query; none for a path that is no page of a member. */
export function firstsOf(address: string): readonly First[] {
  const { pathname, searchParams } = new URL(address, 'http://localhost');
  // Our ids need no escape; what has one is nobody's.
  const [place, of, page, seat] = pathname.split('/').slice(1);
  const find = searchParams.get('find') ?? '';
  switch (place) {
    case 'desk':
      if (of === 'late') return [one('desk.late', {})];
      return [list('desk.tasks', { filter: '' }), one('desk.view', {}), one('told.list', { all: false }), organization];
    case 'circulations':
      if (of === undefined)
        return [list('circulation.list', { ...noFilter, filter: find, order: 'need' }), organization];
      if (of === 'load') return [one('desk.load', {}), types];
      return ofCirculation(of, page, seat, Number(searchParams.get('at')));
    case 'draft':
      return of === undefined ? [] : [one('draft.view', { change: of })];
    case 'register':
      if (of === undefined) return [list('register.list', { filter: '' }), types];
      return of === 'new' ? [types] : [one('record.view', { record: of }), types];
    case 'people':
      if (of === undefined) return [list('people.list', { filter: find })];
      return [one('people.held', { person: of }), organization, types];
    case 'me':
      return [one('session.list', {}), one('feed.view', {}), one('told.preferences', {}), organization, types];
    case 'organization':
      return [organization];
    case 'types':
      return [types];
    case 'post':
      return [list('post.list', { filter: '' })];
    default:
      return [];
  }
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
