'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { DraftView } from '@/server/drafting/view';
import { refresh } from '../data/changes';
import { type Refusal, type Told, tell, type Uploaded, upload } from '../data/client';
import type { SavedText } from './useSavedText';

/** A file that travels along, as it is named to the server. */
export interface Attached {
  readonly file: string;
  readonly name: string;
}

type FileCommand =
  | 'draft.choose'
  | 'draft.setFile'
  | 'draft.addDocument'
  | 'draft.removeDocument'
  | 'draft.setAttachments';

/** What is done to a draft besides typing: where a document comes from, its file, further documents, what travels along. */
export function useDraftFiles(data: DraftView, document: string, text: SavedText) {
  const client = useQueryClient();
  const [progress, setProgress] = useState<number | null>(null);
  const [fault, setFault] = useState<Refusal | null>(null);
  const { change } = data;

  /** Each command names the edit it was made upon and learns the one it made. */
  const put = async <N extends FileCommand>(told: (edit: number) => Promise<Told<N>>): Promise<Told<N> | null> => {
    setFault(null);
    try {
      const answer = await told(text.edit());
      text.moved(answer.value.edit);
      await refresh(client, answer.changed);
      return answer;
    } catch (error) {
      setFault(error as Refusal);
      return null;
    }
  };
  const travel = async (files: readonly Attached[]): Promise<void> => {
    const given = files.map(({ file, name }) => ({ file, name }));
    await put((edit) => tell('draft.setAttachments', { change, edit, files: given }));
  };
  /** Takes a chosen file in, and hands it on once the server has it. */
  const take = async (chosen: File | undefined, after: (file: Uploaded) => Promise<unknown>): Promise<void> => {
    if (!chosen) return;
    setFault(null);
    setProgress(0);
    try {
      await after(await upload(chosen, setProgress));
    } catch (error) {
      setFault(error as Refusal);
    }
    setProgress(null);
  };

  return {
    progress,
    fault,
    travel,
    choose: (source: 'text' | 'file') =>
      text.settle().then(() => put((edit) => tell('draft.choose', { change, edit, document, source }))),
    setFile: (chosen: File | undefined) =>
      take(chosen, ({ file, name }) => put((edit) => tell('draft.setFile', { change, edit, document, file, name }))),
    addDocument: (chosen: File | undefined, after: (document: string) => void) =>
      take(chosen, async ({ file, name }) => {
        if (!(await text.settle())) return;
        const told = await put((edit) => tell('draft.addDocument', { change, edit, file, name }));
        if (told) after(told.value.document);
      }),
    removeDocument: (after: () => void) =>
      put((edit) => tell('draft.removeDocument', { change, edit, document })).then((told) => told && after()),
    attach: (chosen: File | undefined) =>
      take(chosen, ({ file, name }) => travel([...data.attachments, { file, name }])),
  };
}
