import type { VersionFile } from '@/core/circulation/run/shapes';
import { newest } from '@/core/circulation/run/state';
import { type DraftVersion, hasItsPages, type VersionSource } from '@/core/record/record';
import { readStory, type Story, storyText } from '@/core/text/story';
import { act } from '../circulation/act';
import { circulationState, recordState } from '../circulation/load';
import { notify, sendWrite, type Tx } from '../db/connect';
import { table } from '../db/table';
import { putPayloadIfAny } from '../events/payloads';
import { claimFiles, factsOf, findFile, putWithin } from '../files/store';
import { enqueue } from '../jobs/queue';
import { unsetInLine, unsetInStory } from '../letters/documentText';
import { letterName } from '../letters/spelled';
import { newId } from '../random';
import { refuse } from '../refused';
import { actOnRecord } from '../register/act';

export interface DraftFile {
  readonly file: string;
  readonly name: string;
  readonly mediaType: string;
  readonly bytes: number;
}

/** A document of a working copy: a text written here or a PDF, both kept until one of them is submitted. */
export interface DraftDocument {
  /** Stays over versions. */
  readonly id: string;
  readonly record: string;
  readonly name: string;
  readonly source: 'text' | 'file';
  readonly file: DraftFile | null;
}

export interface DraftAttachment extends DraftFile {
  readonly id: string;
}

export interface DraftRow {
  readonly change: string;
  readonly record: string;
  readonly circulation: string;
  readonly author: string;
  readonly controller: string;
  readonly documents: readonly DraftDocument[];
  readonly attachments: readonly DraftAttachment[];
  /** Raised by every save; a writer names the one they saw. */
  readonly edit: number;
  readonly saved: number;
}

const drafts = table<DraftRow>('draft', {
  change: 'value',
  record: 'value',
  circulation: 'value',
  author: 'value',
  controller: 'value',
  documents: 'json',
  attachments: 'json',
  edit: 'value',
  saved: 'value',
});

export async function draftOf(tx: Tx, change: string): Promise<DraftRow | null> {
  const [row] = await tx.sql<DraftRow[]>`
    select ${drafts.list(tx, 'd')} from draft d
    where organization = ${tx.organization} and change = ${change}`;
  return row ?? null;
}

/** The stories of a working copy, by document. */
export async function storiesOf(tx: Tx, change: string): Promise<ReadonlyMap<string, Story>> {
  const rows = await tx.sql<{ document: string; story: string }[]>`
    select document, story from draft_text where organization = ${tx.organization} and change = ${change}`;
  return new Map(
    rows.flatMap((row) => {
      const story = readStory(JSON.parse(row.story));
      return typeof story === 'string' ? [] : [[row.document, story] as const];
    }),
  );
}

/** Makes the working copy of a change: a document for each of its records, the leading one first. */
export function newDraft(
  tx: Tx,
  input: {
    readonly change: string;
    readonly circulation: string;
    readonly author: string;
    readonly controller: string;
    readonly documents: readonly { readonly record: string; readonly name: string }[];
  },
): void {
  const { documents, ...row } = input;
  const made = documents.map(
    (one, i): DraftDocument => ({
      id: i === 0 ? 'main' : newId(),
      ...one,
      source: 'text',
      file: null,
    }),
  );
  const begun = {
    ...row,
    record: documents[0]?.record ?? '',
    documents: made,
    attachments: [],
    edit: 0,
    saved: tx.now,
  };
  sendWrite(drafts.insert(tx, [begun]));
}

/** Gives a fresh change the working copy of an earlier one, text and files. */
export async function copyDraft(tx: Tx, from: string, to: string): Promise<void> {
  const old = await draftOf(tx, from);
  if (!old) return;
  sendWrite(tx.sql`
    update draft set documents = ${tx.sql.json(old.documents as never)}, attachments = ${tx.sql.json(old.attachments as never)}
    where organization = ${tx.organization} and change = ${to}`);
  sendWrite(tx.sql`
    insert into draft_text (organization, change, document, story)
    select organization, ${to}, document, story from draft_text where organization = ${tx.organization} and change = ${from}`);
  claimFiles(tx, `draft:${to}`, filesIn(old));
}

function filesIn(row: Pick<DraftRow, 'documents' | 'attachments'>): string[] {
  return [...row.documents.flatMap((one) => one.file?.file ?? []), ...row.attachments.map((file) => file.file)];
}

/** What a save changes. */
interface DraftUpdate {
  readonly documents?: readonly DraftDocument[];
  readonly attachments?: readonly DraftAttachment[];
  readonly text?: { readonly document: string; readonly story: Story };
}

/** Changes the working copy when it still is as the writer last saw it. Gives the number of the save. */
export async function saveDraft(tx: Tx, change: string, seen: number, update: DraftUpdate): Promise<number> {
  const { documents, attachments, text } = update;
  const set = {
    ...(documents ? { documents: tx.sql.json(documents as never) } : {}),
    ...(attachments ? { attachments: tx.sql.json(attachments as never) } : {}),
    edit: seen + 1,
    saved: tx.now,
  };
  const [row] = await tx.sql<Pick<DraftRow, 'edit' | 'author' | 'controller' | 'documents' | 'attachments'>[]>`
    update draft set ${tx.sql(set as never)}
    where organization = ${tx.organization} and change = ${change} and edit = ${seen}
    returning edit, author, controller, documents, attachments`;
  if (!row) refuse('draft-moved');
  if (text)
    sendWrite(tx.sql`
      insert into draft_text (organization, change, document, story)
      values (${tx.organization}, ${change}, ${text.document}, ${JSON.stringify(text.story)})
      on conflict (organization, change, document) do update set story = excluded.story`);
  if (documents || attachments) {
    sendWrite(tx.sql`delete from file_use where organization = ${tx.organization} and owner = ${`draft:${change}`}`);
    claimFiles(tx, `draft:${change}`, filesIn(row));
  }
  notify(tx, 'draft', change, [row.author, row.controller]);
  return row.edit;
}

/**
 * Makes a version of the working copy. A PDF goes into it as it is, unless its document's type asks for a margin line; a
 * text is kept as its own file. What pages are made of is left to a job, which submits the version afterwards when that
 * was asked for.
 */
export async function makeVersion(
  tx: Tx,
  row: DraftRow,
  note: string | null,
  actor: string,
  submit: boolean,
): Promise<DraftVersion> {
  const record = await recordState(tx, row.record);
  const change = record?.changes.find((candidate) => candidate.id === row.change);
  if (!change) refuse('not-found');
  const number = (change.versions[change.versions.length - 1]?.number ?? 0) + 1;
  const stories = await storiesOf(tx, row.change);
  const sources: VersionSource[] = [];
  const files: VersionFile[] = [];
  for (const { id, record: of, name, source, file } of row.documents) {
    if (source === 'file') {
      if (!file) refuse('no-draft');
      if (await getsMarginLine(tx, of, file)) sources.push({ id, record: of, name: file.name, source: file.file });
      else files.push({ ...file, id, record: of, role: 'document' });
      continue;
    }
    const story = stories.get(id);
    if (!story || storyText(story).trim() === '') refuse('draft-empty');
    const letter = unsetInStory(story)[0]?.letter ?? unsetInLine((await recordState(tx, of))?.title ?? '');
    if (letter) refuse('letters-unset', { letter: `“${letter}” (${letterName(letter)})`, document: name });
    const { hash } = await putWithin(tx, Buffer.from(JSON.stringify(story)), 'application/json');
    sources.push({ id, record: of, name, source: hash });
  }
  for (const attachment of row.attachments) files.push({ ...attachment, record: row.record, role: 'attachment' });
  const state = await actOnRecord(
    tx,
    row.record,
    {
      type: 'version.made',
      data: {
        change: row.change,
        number,
        order: row.documents.map(({ id }) => id),
        sources,
        files,
        note: putPayloadIfAny(tx, note),
      },
    },
    actor,
  );
  if (sources.length > 0) enqueue(tx, 'render', { record: row.record, change: row.change, number, submit, actor });
  const made = state.changes
    .find((candidate) => candidate.id === row.change)
    ?.versions.find((version) => version.number === number);
  return made as DraftVersion;
}

/** Whether a PDF gets a line in its margin: where its document's type asks for one, and never when it carries signatures. */
async function getsMarginLine(tx: Tx, record: string, file: DraftFile): Promise<boolean> {
  if (file.mediaType !== 'application/pdf' || !(await asksForMarginLine(tx, record))) return false;
  const notices = (await findFile(tx, file.file))?.facts.notices ?? [];
  return !notices.some((notice) => notice === 'signatures' || notice === 'certified');
}

/** Whether a document's type wants number, revision and page in the margin of its PDFs. */
export async function asksForMarginLine(tx: Tx, record: string): Promise<boolean> {
  const state = await recordState(tx, record);
  const [type] = await tx.sql<{ marginLine: boolean }[]>`
    select margin_line from document_type where organization = ${tx.organization} and code = ${state?.documentType ?? ''}`;
  return type?.marginLine ?? false;
}

/** Gives a version whose pages are all there to the circulation. */
export async function submitVersion(tx: Tx, circulation: string, version: DraftVersion, actor: string): Promise<void> {
  const state = await circulationState(tx, circulation);
  if (!state || (newest(state)?.number ?? 0) >= version.number || !hasItsPages(version)) return;
  const files = await withPrints(tx, version.files);
  await act(tx, circulation, { type: 'attach', version: { number: version.number, files } }, actor);
}

/** Files with what their pages are made of, where that is known. */
export async function withPrints(tx: Tx, files: readonly VersionFile[]): Promise<VersionFile[]> {
  const facts = await factsOf(
    tx,
    files.flatMap(({ role, file }) => (role === 'document' ? [file] : [])),
  );
  return files.map((file) => {
    const prints = file.role === 'document' ? facts.get(file.file)?.prints : undefined;
    return prints ? { ...file, prints } : file;
  });
}

/** Makes a version and submits it, now or once its pages are there. */
export async function submitDraft(tx: Tx, row: DraftRow, note: string | null, person: string): Promise<DraftVersion> {
  const version = await makeVersion(tx, row, note, person, true);
  await submitVersion(tx, row.circulation, version, person);
  return version;
}

/**
 * A file that a browser names, as a draft keeps it: one that this person has sent, or that the draft has already. Whoever
 * only knows a hash has no file by it.
 */
export async function draftFile(
  tx: Tx,
  given: { readonly file: string; readonly name: string },
  person: string,
  row: DraftRow | null,
): Promise<DraftFile> {
  const own = row !== null && filesIn(row).includes(given.file);
  const [sent] = own
    ? [true]
    : await tx.sql`
        select 1 from upload where organization = ${tx.organization} and person = ${person} and file = ${given.file}`;
  const stored = sent ? await findFile(tx, given.file) : null;
  if (!stored) refuse('file-unknown');
  return { file: stored.hash, name: given.name, mediaType: stored.mediaType, bytes: stored.bytes };
}
