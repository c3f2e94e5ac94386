import type { VersionFile } from '@/core/circulation/events';
import { newest } from '@/core/circulation/state';
import type { DraftVersion } from '@/core/record/record';
import { readStory, type Story, storyText } from '@/core/text/story';
import { act } from '../circulation/act';
import { circulationState, recordState } from '../circulation/load';
import type { Tx } from '../db/connect';
import { hint, putPayloadIfAny } from '../events/streams';
import { findFile, putWithin } from '../files/store';
import { enqueue } from '../jobs/queue';
import { refuse } from '../refused';
import { actOnRecord } from '../register/act';

export interface DraftFile {
  readonly file: string;
  readonly name: string;
  readonly mediaType: string;
  readonly bytes: number;
}

export interface DraftRow {
  readonly change: string;
  readonly record: string;
  readonly circulation: string;
  readonly author: string;
  readonly controller: string;
  readonly source: 'text' | 'file';
  readonly story: string | null;
  /** DraftFile as JSON text. */
  readonly main: string | null;
  readonly attachments: readonly DraftFile[];
  readonly revision: number;
  readonly saved: number;
}

export async function draftOf(tx: Tx, change: string): Promise<DraftRow | null> {
  const [row] = await tx.sql<DraftRow[]>`
    select change, record, circulation, author, controller, source, story, main, attachments, revision, saved from draft
    where organization = ${tx.organization} and change = ${change}`;
  return row ?? null;
}

/** Changes the working copy when it still is as the writer last saw it. Gives its new revision number. */
export async function saveDraft(
  tx: Tx,
  change: string,
  seen: number,
  update: Partial<Pick<DraftRow, 'source' | 'story' | 'main' | 'attachments'>>,
): Promise<number> {
  const { attachments, ...plain } = update;
  const set = {
    ...plain,
    ...(attachments ? { attachments: tx.sql.json(attachments as never) } : {}),
    revision: seen + 1,
    saved: tx.now,
  };
  const [row] = await tx.sql<{ revision: number }[]>`
    update draft set ${tx.sql(set as never)}
    where organization = ${tx.organization} and change = ${change} and revision = ${seen} returning revision`;
  if (!row) refuse('draft-moved');
  hint(tx, `draft ${change}`);
  return row.revision;
}

function storyIn(row: DraftRow): Story | null {
  if (!row.story) return null;
  const story = readStory(JSON.parse(row.story));
  return typeof story === 'string' ? null : story;
}

/**
 * Makes a version of the working copy. A PDF is the version's main file as it is; a text is kept as its own file and
 * rendered by a job, which may hand it in afterwards.
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
  const attached = row.attachments.map((file): VersionFile => ({ ...file, role: 'attachment' }));
  let files = attached;
  let text: string | null = null;
  if (row.source === 'file') {
    if (!row.main) refuse('no-draft');
    const main = JSON.parse(row.main) as DraftFile;
    files = [{ ...main, role: 'main' }, ...attached];
  } else {
    const story = storyIn(row);
    if (!story || storyText(story).trim() === '') refuse('draft-empty');
    text = (await putWithin(tx, Buffer.from(JSON.stringify(story)), 'application/json')).hash;
  }
  const state = await actOnRecord(
    tx,
    row.record,
    {
      type: 'version.made',
      data: { change: row.change, number, source: row.source, text, files, note: await putPayloadIfAny(tx, note) },
    },
    actor,
  );
  if (text) await enqueue(tx, 'render', { record: row.record, change: row.change, number, submit, actor });
  const made = state.changes
    .find((candidate) => candidate.id === row.change)
    ?.versions.find((version) => version.number === number);
  return made as DraftVersion;
}

/** Gives a version with its main file to the circulation. */
export async function submitVersion(tx: Tx, circulation: string, version: DraftVersion, actor: string): Promise<void> {
  const state = await circulationState(tx, circulation);
  if ((newest(state as never)?.number ?? 0) >= version.number) return;
  await act(tx, circulation, { type: 'attach', version: { number: version.number, files: version.files } }, actor);
}

/** Checks that files named by a browser are here, and gives them as a draft keeps them. */
export async function draftFile(tx: Tx, given: { file: string; name: string }): Promise<DraftFile> {
  const stored = await findFile(tx, given.file);
  if (!stored) refuse('file-unknown');
  return { file: stored.hash, name: given.name, mediaType: stored.mediaType, bytes: stored.bytes };
}
