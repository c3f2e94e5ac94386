import type { LineBranch, LineMark, LineModel, LinePart, LineSeries, LineStatus } from './line';

/**
 * The line as a list row needs it: how far each stage is and what its seats are marked with, without people, in a few
 * characters a stage. Written into the list's own table, so that a page of rows stays small.
 */
const statuses = { ahead: 'a', underWay: 'u', done: 'd', passedBy: 'p' } as const;
const marks = { none: 'n', tick: 't', return: 'r', cross: 'c', late: 'l', missed: 'm' } as const;
const verbs = { contribute: 'c', review: 'r', approve: 'a', sign: 's', read: 'd' } as const;
const ends = { no: 'n', finishing: 's', completed: 'c', withdrawn: 'w' } as const;

const backwards = <T extends Readonly<Record<string, string>>>(table: T) =>
  new Map(Object.entries(table).map(([key, letter]) => [letter, key])) as ReadonlyMap<string, keyof T>;
const statusOf = backwards(statuses);
const markOf = backwards(marks);
const verbOf = backwards(verbs);
const endOf = backwards(ends);

/** A stage: status, verb, S when stopped, O one by one, then its seats as status and mark; "(a|b)" is branches. */
export function compactLine(model: LineModel): string {
  // Boards, conditions and waits have no room in a row.
  const all = (parts: readonly LinePart[]) =>
    parts.flatMap((inner) => (inner.kind === 'copies' ? [] : part(inner))).join(' ');
  const part = (inner: Exclude<LinePart, { kind: 'copies' }>): string => {
    if (inner.kind === 'series') return `[${all(inner.parts)}]`;
    if (inner.kind === 'parallel')
      return `(${inner.quota ?? ''}:${inner.branches.map(({ line }) => all(line.parts)).join('|')})`;
    const seats = inner.seats.map((seat) => `${statuses[seat.status]}${marks[seat.mark]}`).join('');
    return `${statuses[inner.status]}${verbs[inner.verb]}${inner.stopped ? 'S' : ''}${inner.order === 'oneByOne' ? 'O' : ''}${seats ? `.${seats}` : ''}`;
  };
  return `${ends[model.ended]} ${all(model.root.parts)}`;
}

/** The model in a compact line: everything a tiny drawing shows, with names and ids left empty. */
export function lineFrom(compact: string): LineModel {
  let at = 2;
  let ids = 0;
  const series = (until: string): LineSeries => {
    const parts: LinePart[] = [];
    while (at < compact.length && !until.includes(compact[at] as string)) {
      if (compact[at] === ' ') at += 1;
      else parts.push(one());
    }
    return { kind: 'series', id: '', parts };
  };
  const one = (): LinePart => {
    ids += 1;
    if (compact[at] === '[') {
      at += 1;
      const inner = series(']');
      at += 1;
      return inner;
    }
    if (compact[at] === '(') {
      const colon = compact.indexOf(':', at);
      const quota = compact.slice(at + 1, colon);
      at = colon + 1;
      const branches: LineBranch[] = [];
      for (;;) {
        branches.push({ id: '', name: '', condition: 'none', line: series('|)') });
        at += 1;
        if (compact[at - 1] !== '|') break;
      }
      return { kind: 'parallel', id: `p${ids}`, name: '', quota: quota === '' ? null : Number(quota), branches };
    }
    const [, status = 'a', verb = 'r', stopped, order, seats = ''] =
      /^(\w)(\w)(S?)(O?)(?:\.(\w*))?/.exec(compact.slice(at)) ?? [];
    at += 2 + (stopped?.length ?? 0) + (order?.length ?? 0) + (seats ? seats.length + 1 : 0);
    return {
      kind: 'stage',
      id: `g${ids}`,
      verb: verbOf.get(verb) ?? 'review',
      order: order ? 'oneByOne' : 'together',
      quota: null,
      status: (statusOf.get(status) ?? 'ahead') as LineStatus,
      stopped: stopped === 'S',
      waits: false,
      condition: 'none',
      seats: Array.from({ length: seats.length / 2 }, (_, i) => ({
        id: `s${ids}-${i}`,
        person: '',
        assignment: null,
        status: (statusOf.get(seats[i * 2] ?? '') ?? 'ahead') as LineStatus,
        mark: (markOf.get(seats[i * 2 + 1] ?? '') ?? 'none') as LineMark,
      })),
    };
  };
  const root = series('');
  return { root, ended: endOf.get(compact[0] ?? '') ?? 'no' };
}
