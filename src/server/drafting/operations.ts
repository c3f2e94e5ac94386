import Joi from 'joi';
import { readStory, type Story, storyLimits } from '@/core/text/story';
import type { Tx } from '../db/connect';
import { listOf, oneOf, piece, shape, whole } from '../operations/input';
import { type Claim, memberOperation } from '../operations/operation';
import { fileName, hash, id, note } from '../operations/pieces';
import { newId } from '../random';
import { refuse } from '../refused';
import { type DraftDocument, type DraftRow, draftFile, draftOf, makeVersion, saveDraft, submitDraft } from './draft';
import { unsetLetters } from './unset';
import { draftView } from './view';

const change = { change: id };
const seen = { ...change, edit: whole(0, 100_000_000) };
const document = { ...seen, document: id };
const story = piece<Story>(
  Joi.object({ format: Joi.valid(1).required(), blocks: Joi.array().max(storyLimits.blocks).required() }).unknown(
    false,
  ),
);

function claiming(action: 'draft.read' | 'draft.write') {
  return async (tx: Tx, input: { readonly change: string }): Promise<Claim | null> => {
    const row = await draftOf(tx, input.change);
    return row && { action, subject: { kind: 'draft', author: row.author, controller: row.controller } };
  };
}

async function needDraft(tx: Tx, given: string): Promise<DraftRow> {
  return (await draftOf(tx, given)) ?? refuse('not-found');
}

/** The documents of a draft with one of them changed. */
function changed(row: DraftRow, document: string, update: Partial<DraftDocument>): DraftDocument[] {
  if (!row.documents.some((one) => one.id === document)) refuse('no-such-document');
  return row.documents.map((one) => (one.id === document ? { ...one, ...update } : one));
}

export const draftingOperations = [
  memberOperation({
    name: 'draft.view',
    kind: 'query',
    input: shape(change),
    claim: claiming('draft.read'),
    run: async (tx, input, actor) => (await draftView(tx, input.change, actor)) ?? refuse('not-found'),
  }),

  memberOperation({
    name: 'draft.saveText',
    kind: 'command',
    input: shape({ ...document, story }),
    claim: claiming('draft.write'),
    limit: 8 * 1024 * 1024,
    changes: ['draft'],
    run: async (tx, input) => {
      const read = readStory(input.story);
      if (typeof read === 'string') refuse(read === 'too-large' ? 'too-large' : 'bad-input', { fault: read });
      changed(await needDraft(tx, input.change), input.document, {});
      const text = { document: input.document, story: read };
      return { edit: await saveDraft(tx, input.change, input.edit, { text }), unset: unsetLetters(read) };
    },
  }),

  memberOperation({
    name: 'draft.choose',
    kind: 'command',
    input: shape({ ...document, source: oneOf('text', 'file') }),
    claim: claiming('draft.write'),
    changes: ['draft'],
    run: async (tx, input) => {
      const documents = changed(await needDraft(tx, input.change), input.document, { source: input.source });
      return { edit: await saveDraft(tx, input.change, input.edit, { documents }) };
    },
  }),

  memberOperation({
    name: 'draft.setFile',
    kind: 'command',
    input: shape({ ...document, file: hash, name: fileName }),
    claim: claiming('draft.write'),
    changes: ['draft'],
    run: async (tx, input, actor) => {
      const row = await needDraft(tx, input.change);
      const file = await draftFile(tx, input, actor.person, row);
      if (file.mediaType !== 'application/pdf') refuse('file-not-pdf');
      const documents = changed(row, input.document, { source: 'file', file });
      return { edit: await saveDraft(tx, input.change, input.edit, { documents }) };
    },
  }),

  memberOperation({
    name: 'draft.addDocument',
    kind: 'command',
    input: shape({ ...seen, file: hash, name: fileName }),
    claim: claiming('draft.write'),
    changes: ['draft'],
    run: async (tx, input, actor) => {
      const row = await needDraft(tx, input.change);
      if (row.documents.length >= 20) refuse('too-large');
      const file = await draftFile(tx, input, actor.person, row);
      if (file.mediaType !== 'application/pdf') refuse('file-not-pdf');
      const added: DraftDocument = { id: newId(), record: row.record, name: input.name, source: 'file', file };
      return {
        document: added.id,
        edit: await saveDraft(tx, input.change, input.edit, { documents: [...row.documents, added] }),
      };
    },
  }),

  memberOperation({
    name: 'draft.removeDocument',
    kind: 'command',
    input: shape(document),
    claim: claiming('draft.write'),
    changes: ['draft'],
    run: async (tx, input) => {
      const row = await needDraft(tx, input.change);
      const going = row.documents.find((one) => one.id === input.document) ?? refuse('no-such-document');
      const documents = row.documents.filter((one) => one.id !== input.document);
      // Every record of the change keeps a document of its own.
      if (!documents.some((one) => one.record === going.record)) refuse('no-draft');
      return { edit: await saveDraft(tx, input.change, input.edit, { documents }) };
    },
  }),

  memberOperation({
    name: 'draft.setAttachments',
    kind: 'command',
    input: shape({ ...seen, files: listOf(shape({ file: hash, name: fileName }), { most: 50 }) }),
    claim: claiming('draft.write'),
    changes: ['draft'],
    run: async (tx, input, actor) => {
      const row = await needDraft(tx, input.change);
      const attachments = [];
      for (const given of input.files) {
        const known = row.attachments.find((one) => one.file === given.file && one.name === given.name);
        attachments.push(known ?? { id: newId(), ...(await draftFile(tx, given, actor.person, row)) });
      }
      return { edit: await saveDraft(tx, input.change, input.edit, { attachments }) };
    },
  }),

  memberOperation({
    name: 'draft.makeVersion',
    kind: 'command',
    input: shape({ ...change, note }),
    claim: claiming('draft.write'),
    changes: ['record'],
    run: async (tx, input, actor) => {
      const row = await needDraft(tx, input.change);
      return { version: (await makeVersion(tx, row, input.note, actor.person, false)).number };
    },
  }),

  memberOperation({
    name: 'draft.submit',
    kind: 'command',
    input: shape({ ...change, note }),
    claim: claiming('draft.write'),
    changes: ['circulation', 'record'],
    run: async (tx, input, actor) => {
      const version = await submitDraft(tx, await needDraft(tx, input.change), input.note, actor.person);
      return { version: version.number, rendering: version.sources.length > 0 };
    },
  }),
] as const;
