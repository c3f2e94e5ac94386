import type { PayloadHash, VersionFile } from '../circulation/run/shapes';
import type { RefusalCode } from '../refusals';
import type { Facts } from '../route/facts';
import { unreachable } from '../unreachable';
import { nextRevision } from './numbering';

/** A document of a version whose pages a job makes: from a text, or from a PDF that gets its margin line. */
export interface VersionSource {
  readonly id: string;
  readonly record: string;
  readonly name: string;
  /** The file that its pages are made from. */
  readonly source: string;
}

/** A file of a released revision. */
export interface RevisionFile {
  readonly id: string;
  readonly name: string;
  /** The content that was decided on. */
  readonly content: string;
  /** The released bytes. */
  readonly file: string;
}

/** Who of the members sees the files of a revision; it keeps the sight it was released with. */
export type ReleasedSight = 'everybody';

/** What a document is besides its number: described when it is created, and again whenever that changes. */
interface Description {
  readonly title: string;
  readonly documentType: string;
  readonly owner: string;
  /** The unit it belongs to; null for that of its owner, whoever that is. */
  readonly unit: string | null;
  /** Values of the details that its type declares. */
  readonly details: Facts;
}

/** The life of a document record as a fold over its own events. */
interface Bodies {
  'record.created': Description & { number: string; complete: boolean };
  'record.described': Description;
  'change.started': {
    change: string;
    circulation: string;
    /** Every record that the change covers, the leading one first: its stream holds the versions. */
    records: readonly string[];
    revision: string;
    reason: PayloadHash;
    author: string;
    controller: string;
  };
  'version.made': {
    change: string;
    number: number;
    /** The documents by their ids, the leading one first. */
    order: readonly string[];
    /** Those whose pages follow as files of the same id when they have been made. */
    sources: readonly VersionSource[];
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
    /** What the document was called when it was released. */
    title: string;
    files: readonly RevisionFile[];
    evidence: string | null;
    sight: ReleasedSight;
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
  readonly order: readonly string[];
  readonly sources: readonly VersionSource[];
  readonly files: readonly VersionFile[];
  readonly at: number;
  readonly by: string;
  readonly note: PayloadHash | null;
}

export interface Change {
  readonly id: string;
  readonly circulation: string;
  readonly records: readonly string[];
  readonly revision: string;
  readonly reason: PayloadHash;
  readonly author: string;
  readonly controller: string;
  readonly started: number;
  readonly state: 'inProgress' | 'withdrawn' | 'released';
  readonly versions: readonly DraftVersion[];
}

export interface Revision {
  readonly revision: string;
  /** What the document was called when it was released. */
  readonly title: string;
  readonly files: readonly RevisionFile[];
  readonly evidence: string | null;
  readonly sight: ReleasedSight;
  readonly effective: number;
  readonly released: number;
  readonly by: string;
  readonly circulation: string;
}

export interface RecordState extends Description {
  readonly number: string;
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
        changes: [...state.changes, { id, ...data, started: event.at, state: 'inProgress', versions: [] }],
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
          versions: c.versions.map((v) => (v.number === number ? { ...v, files: withFile(v, file) } : v)),
        })),
      };
    }
    case 'change.ended':
      return { ...next, changes: change(event.data.change, (c) => ({ ...c, state: 'withdrawn' })) };
    case 'revision.released': {
      const { change: id, revision, title, files, evidence, sight, effective, circulation } = event.data;
      return {
        ...next,
        changes: change(id, (c) => ({ ...c, state: 'released' })),
        revisions: [
          ...state.revisions,
          { revision, title, files, evidence, sight, effective, released: event.at, by: event.actor, circulation },
        ],
      };
    }
    default:
      return unreachable(event, 'event');
  }
}

/** The files of a version with the pages of one more document: the documents in their order, then the attachments. */
function withFile(version: DraftVersion, file: VersionFile): VersionFile[] {
  const { order } = version;
  const documents = [...version.files.filter((entry) => order.includes(entry.id)), file];
  documents.sort((a, b) => order.indexOf(a.id) - order.indexOf(b.id));
  return [...documents, ...version.files.filter((entry) => !order.includes(entry.id))];
}

/** Whether every document of a version has its pages. */
export function hasItsPages(version: DraftVersion): boolean {
  return version.sources.every((source) => version.files.some((file) => file.id === source.id));
}

export function foldRecord(events: Iterable<RecordEvent>): RecordState | null {
  let state: RecordState | null = null;
  for (const event of events) state = evolveRecord(state, event);
  return state;
}

/** The change being worked on, if any: a record has at most one at a time. */
export function changeInWork(state: RecordState): Change | null {
  return state.changes.find((change) => change.state === 'inProgress') ?? null;
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

/** Whether a record may take the event that a command asks for; the refusal's code, or null when it may. */
export function recordRefusal(state: RecordState | null, command: RecordCommand): RefusalCode | null {
  if (command.type === 'record.created') return state ? 'record-exists' : null;
  if (!state) return 'record-not-found';
  if (command.type === 'record.described') return null;
  if (command.type === 'change.started') return changeInWork(state) ? 'in-work-already' : null;
  const change = state.changes.find((candidate) => candidate.id === command.data.change);
  if (!change) return 'no-such-change';
  if (change.state !== 'inProgress') return 'change-over';
  if (command.type === 'version.made') {
    const latest = change.versions[change.versions.length - 1]?.number ?? 0;
    if (command.data.number !== latest + 1) return 'version-order';
    const documents = command.data.files.filter((file) => file.role === 'document').length;
    return documents + command.data.sources.length > 0 ? null : 'no-document';
  }
  if (command.type === 'version.rendered') {
    const version = change.versions.find((candidate) => candidate.number === command.data.number);
    if (!version) return 'version-order';
    const { id } = command.data.file;
    if (!version.sources.some((source) => source.id === id)) return 'no-document';
    return version.files.some((file) => file.id === id) ? 'rendered-already' : null;
  }
  return null;
}
