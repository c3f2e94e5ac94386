import { useEffect, useRef, useState } from 'react';
import type { Assignee } from '@/core/route/route';
import { useAct } from '../circulation/useAct';
import { toldWords } from '../circulation/words';
import { Refusal, type Uploaded, upload } from '../data/client';
import { useMe } from '../data/use';
import { useKept } from '../data/useKept';
import { deskWords } from './words';

const words = deskWords.quick;

export const quickVerbs = ['approve', 'review', 'sign', 'read'] as const;

/** What is filled in so far; kept on this device until it is sent. */
interface Filled {
  readonly file: Uploaded | null;
  readonly title: string;
  readonly verb: (typeof quickVerbs)[number];
  readonly people: readonly Assignee[];
  readonly due: number | null;
  readonly note: string;
}

const empty: Filled = { file: null, title: '', verb: 'approve', people: [], due: null, note: '' };

/** Whether a file says at its beginning that it is a PDF (ISO 32000-2, 7.5.2), which may stand within its first kilobyte. */
async function saysPdf(file: File): Promise<boolean> {
  return (await file.slice(0, 1024).text()).includes('%PDF-');
}

/** A file, a few people, and what is asked of them: filled in, over a reload too, and sent. */
export function useQuick(dropped: File | null, onDone: () => void) {
  const { data: me } = useMe();
  const [kept, keep] = useKept<Filled>(`quick.${me?.me.id}`);
  const filled = kept ?? empty;
  const now = useRef(filled);
  now.current = filled;
  const change = (part: Partial<Filled>) => {
    now.current = { ...now.current, ...part };
    keep(now.current);
  };
  const [progress, setProgress] = useState<number | null>(null);
  const [fault, setFault] = useState<Refusal | null>(null);
  const taking = useRef(0);
  const send = useAct('desk.sendQuick', toldWords.sent, {
    answered: () => keep(null),
    after: onDone,
  });

  /** Takes a file in. The one before is gone at once, and what an earlier choice brings later is not taken. */
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    taking.current += 1;
    const mine = taking.current;
    const current = () => mine === taking.current;
    const before = now.current.file?.name;
    setFault(null);
    setProgress(0);
    const named = (name: string) =>
      name
        .replace(/\.pdf$/i, '')
        .replace(/[_-]+/g, ' ')
        .trim();
    // A title that came from the file before goes with it; one that was typed stays.
    const typed = now.current.title !== '' && now.current.title !== named(before ?? '');
    change({ file: null, ...(typed ? {} : { title: named(chosen.name) }) });
    try {
      if (!(await saysPdf(chosen))) throw new Refusal('file-not-pdf', words.notPdf(chosen.name), {}, 422);
      const file = await upload(chosen, (share) => current() && setProgress(share));
      if (current()) change({ file });
    } catch (error) {
      if (current()) setFault(error as Refusal);
    }
    if (current()) setProgress(null);
  };

  const takeIn = useRef(take);
  takeIn.current = take;
  // A file dropped anywhere on the Desk is taken in at once.
  const first = useRef(dropped);
  useEffect(() => {
    const file = first.current;
    first.current = null;
    if (file) void takeIn.current(file);
  }, []);

  return {
    filled,
    change,
    progress,
    fault,
    take,
    me: me?.me.id ?? null,
    sending: send.isPending,
    refused: send.error,
    ready: filled.file !== null && progress === null && filled.people.length > 0 && filled.title.trim() !== '',
    send: () => {
      const { file, ...rest } = filled;
      if (file && progress === null) send.mutate({ file: file.file, name: file.name, ...rest });
    },
    cancel: () => {
      keep(null);
      onDone();
    },
  };
}
