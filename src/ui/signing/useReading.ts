import { useState } from 'react';
import type { Outcome } from '@/core/route/verbs';
import type { CirculationView } from '@/server/circulation/view';
import type { SpotGiven } from '@/server/operations/pieces';
import { needsOf } from '../circulation/offers';
import { useEscape } from '../data/useEscape';
import { useGround } from '../data/useGround';
import { useResponding } from './useResponding';
import { useSeatActs } from './useSeatActs';

type Panel = Outcome | 'delegate' | 'name' | 'ask' | null;
export type Reader = ReturnType<typeof useReading>;

/** What is open while somebody reads a version, and what is asked of them; tells once that it was seen. */
export function useReading(view: CirculationView, seatId: string | null) {
  // The version that was opened stays; a newer one is told, and nothing can be decided on the old one.
  const [shown, setShown] = useState(view.newest);
  const version =
    view.versions.find((candidate) => candidate.number === shown) ?? view.versions[view.versions.length - 1];
  const [panel, setPanel] = useState<Panel>(null);
  const [spot, setSpot] = useState<SpotGiven | 'whole' | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [left, leave] = useState(false);
  const seat = view.seats.find((candidate) => candidate.id === seatId) ?? null;
  const needs = seat && needsOf(view, 'decide', seat.id);
  const asked = seat !== null && needs !== null;
  const stale = shown !== null && view.newest !== null && view.newest > shown;

  const { see } = useSeatActs({ circulation: view.id, seat: seat?.id ?? '', epoch: seat?.epoch ?? 0 }, '');
  const scope = (!stale && seat?.scope) || undefined;
  const unseen = seat !== null && asked && !stale && needsOf(view, 'see', seat.id) !== null;
  const { positive, offered, unnamed } = useResponding(needs, '', unseen ? scope : undefined, see);
  // A leaf for a task that is no longer there says so and closes; what stays is the document.
  useGround(panel === null || asked || left, { isPending: false }, () => setPanel(null));
  useEscape(() => {
    setSpot(null);
    setOpened(null);
    setPanel(null);
  });

  const documents = version?.files.filter((file) => file.role === 'document') ?? [];
  const document = documents.find((file) => file.id === chosen) ?? documents[0];
  const threads = view.comments.filter((comment) => !comment.thread);
  return {
    version,
    documents,
    document,
    attachments: version?.files.filter((file) => file.role === 'attachment') ?? [],
    threads,
    here: threads.filter((comment) => comment.file === document?.file),
    seat,
    scope,
    acting: asked && !stale && !left ? seat : null,
    asked,
    left,
    leave: () => leave(true),
    stale,
    positive,
    needs,
    /** Goes on to a response; whoever is to be named first is asked for before a yes. */
    respond: (outcome: Outcome) => setPanel(outcome === positive && unnamed ? 'name' : outcome),
    offered,
    panel,
    setPanel,
    spot,
    opened,
    commentAt: (at: typeof spot) => {
      setOpened(null);
      setSpot(at);
    },
    toggle: (comment: string) => {
      setSpot(null);
      setOpened(opened === comment ? null : comment);
    },
    showVersion: (number: number | null) => {
      setShown(number);
      setPanel(null);
    },
    showDocument: (file: string) => {
      setChosen(file);
      setSpot(null);
      setOpened(null);
    },
  };
}
