import type { PayloadHash, VersionFile } from '../circulation/events';
import { nextRevision } from './numbering';

/** The life of a document record as a fold over its own events. */
interface Bodies {
  'record.created': { number: string; title: string; kind: string; owner: string; complete: boolean };
  'record.described': { title: string; kind: string; owner: string };
  'change.started': {
    change: string;
    circulation: string;
    revision: string;
    reason: PayloadHash;
    author: string;
    controller: string;
  };
  'version.made': {
    change: string;
    number: number;
    source: 'file' | 'text';
    /** The text's own file when written here; the page file follows when it has been rendered. */
    text: string | null;
    files: readonly VersionFile[];
    note: PayloadHash | null;
  };
  'version.rendered': { change: string; number: number; file: VersionFile };
  'change.ended': { change: string };
  'revision.released': {
    change: string;
    circulation: string;
    revision: string;
    version: number;
    frozen: string;
    file: string;
    effective: number;
  };
}

export type RecordEventType = keyof Bodies;
export type RecordEvent = {
  readonly [T in RecordEventType]: {
    readonly type: T;
    readonly at: number;
    readonly actor: string;
    readonly onBehalfOf: null;
    readonly data: Readonly<Bodies[T]>;
  };
}[RecordEventType];

export const recordEventVersions: { readonly [T in RecordEventType]: number } = {
  'record.created': 1,
  'record.described': 1,
  'change.started': 1,
  'version.made': 1,
  'version.rendered': 1,
  'change.ended': 1,
  'revision.released': 1,
};

export interface DraftVersion {
  readonly number: number;
  readonly source: 'file' | 'text';
  readonly text: string | null;
  readonly files: readonly VersionFile[];
  readonly at: number;
  readonly by: string;
  readonly note: PayloadHash | null;
}

export interface Change {
  readonly id: string;
  readonly circulation: string;
  readonly revision: string;
  readonly reason: PayloadHash;
  readonly author: string;
  readonly controller: string;
  readonly started: number;
  readonly state: 'inWork' | 'withdrawn' | 'released';
  readonly versions: readonly DraftVersion[];
}

export interface Revision {
  readonly revision: string;
  readonly file: string;
  readonly frozen: string;
  readonly effective: number;
  readonly released: number;
  readonly by: string;
  readonly circulation: string;
}

export interface RecordState {
  readonly number: string;
  readonly title: string;
  readonly kind: string;
  readonly owner: string;
  /** False while the record stands on defaults that somebody should still look at. */
  readonly complete: boolean;
  readonly created: number;
  readonly last: number;
  readonly changes: readonly Change[];
  /** Released revisions, oldest first; the last one is current. */
  readonly revisions: readonly Revision[];
}

export function evolveRecord(state: RecordState | null, event: RecordEvent): RecordState {
  if (event.type === 'record.created')
    return { ...event.data, created: event.at, last: event.at, changes: [], revisions: [] };
  if (!state) throw new Error(`a record cannot begin with ${event.type}`);
  const next = { ...state, last: event.at };
  const change = (id: string, update: (change: Change) => Change) =>
    state.changes.map((candidate) => (candidate.id === id ? update(candidate) : candidate));
  switch (event.type) {
    case 'record.described':
      return { ...next, ...event.data, complete: true };
    case 'change.started': {
      const { change: id, ...data } = event.data;
      return {
        ...next,
        changes: [...state.changes, { id, ...data, started: event.at, state: 'inWork', versions: [] }],
      };
    }
    case 'version.made': {
      const { change: id, ...data } = event.data;
      const version = { ...data, at: event.at, by: event.actor };
      return { ...next, changes: change(id, (c) => ({ ...c, versions: [...c.versions, version] })) };
    }
    case 'version.rendered': {
      const { change: id, number, file } = event.data;
      return {
        ...next,
        changes: change(id, (c) => ({
          ...c,
          versions: c.versions.map((v) => (v.number === number ? { ...v, files: [file, ...v.files] } : v)),
        })),
      };
    }
    case 'change.ended':
      return { ...next, changes: change(event.data.change, (c) => ({ ...c, state: 'withdrawn' })) };
    case 'revision.released': {
      const { change: id, revision, file, frozen, effective, circulation } = event.data;
      return {
        ...next,
        changes: change(id, (c) => ({ ...c, state: 'released' })),
        revisions: [
          ...state.revisions,
          { revision, file, frozen, effective, released: event.at, by: event.actor, circulation },
        ],
      };
    }
  }
}

export function foldRecord(events: Iterable<RecordEvent>): RecordState | null {
  let state: RecordState | null = null;
  for (const event of events) state = evolveRecord(state, event);
  return state;
}

/** The change being worked on, if any: a record has at most one at a time. */
export function changeInWork(state: RecordState): Change | null {
  return state.changes.find((change) => change.state === 'inWork') ?? null;
}

export function currentRevision(state: RecordState): Revision | null {
  return state.revisions[state.revisions.length - 1] ?? null;
}

/** The revision that the change in work will become when released. */
export function comingRevision(state: RecordState): string {
  return nextRevision(currentRevision(state)?.revision ?? null);
}

export type RecordCommand = {
  readonly [T in RecordEventType]: { readonly type: T; readonly data: Readonly<Bodies[T]> };
}[RecordEventType];

export const recordRefusals = {
  'record-not-found': 'There is no such record.',
  'record-exists': 'This record has already been created.',
  'in-work-already': 'A change of this record is already in work. Finish or withdraw it before the next.',
  'no-such-change': 'There is no such change of this record.',
  'change-over': 'This change is no longer in work.',
  'version-order': 'Another version has been made meanwhile. Please look at it first.',
  'rendered-already': 'This version has its pages already.',
  'no-main-file': 'A version needs one file to read.',
} as const;

export type RecordRefusalCode = keyof typeof recordRefusals;

/** Whether a record may take the event that a command asks for; the refusal's code, or null when it may. */
export function recordRefusal(state: RecordState | null, command: RecordCommand): RecordRefusalCode | null {
  if (command.type === 'record.created') return state ? 'record-exists' : null;
  if (!state) return 'record-not-found';
  if (command.type === 'record.described') return null;
  if (command.type === 'change.started') return changeInWork(state) ? 'in-work-already' : null;
  const change = state.changes.find((candidate) => candidate.id === command.data.change);
  if (!change) return 'no-such-change';
  if (change.state !== 'inWork') return 'change-over';
  if (command.type === 'version.made') {
    const latest = change.versions[change.versions.length - 1]?.number ?? 0;
    if (command.data.number !== latest + 1) return 'version-order';
    const mains = command.data.files.filter((file) => file.role === 'main').length;
    return mains === (command.data.source === 'file' ? 1 : 0) ? null : 'no-main-file';
  }
  if (command.type === 'version.rendered') {
    const version = change.versions.find((candidate) => candidate.number === command.data.number);
    if (!version) return 'version-order';
    return version.files.some((file) => file.role === 'main') ? 'rendered-already' : null;
  }
  return null;
}
