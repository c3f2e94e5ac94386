import { type RefObject, useState } from 'react';
import { type Field, type FieldValue, valueFaults } from '@/core/page/fields';
import type { Outcome } from '@/core/route/verbs';
import type { SeatView } from '@/server/signing/view';
import { needsOf } from '../circulation/offers';
import { useKept, useKeptText } from '../data/useKept';
import { useResponding } from './useResponding';
import { useSeatActs, type Values } from './useSeatActs';

type Panel = 'confirm' | 'decline' | 'return' | 'later' | 'who' | 'name' | 'delegate' | 'ask' | null;

/** What is on the Signing page while somebody reads and fills: the content opened, its values, and what comes next. */
export type Signing = ReturnType<typeof useSigning>;

/** The hand that signs a seat: what is opened, filled and said, kept on this device until it is decided. */
export function useSigning(view: SeatView, base: string, scroller: RefObject<HTMLDivElement | null>) {
  // What was open when the page came: a newer version shows as a warning, never as a change under one's eyes.
  const [opened, setOpened] = useState(view.content);
  const content = opened ?? view.content;
  const [chosen, setChosen] = useState<string | null>(null);
  const document = content?.documents.find(({ id }) => id === chosen) ?? content?.documents[0] ?? null;
  const [kept, keep] = useKept<Values>(`values.${view.circulation}.${view.seat}.${content?.scope}`);
  const [active, setActive] = useState<string | null>(null);
  // The field that was left empty although it is required.
  const [missing, setMissing] = useState<string | null>(null);
  const [panel, setPanel] = useState<Panel>(null);
  // A reason that was begun and left does not become a word with a decision.
  const [reason, setReason] = useKeptText(`refuse.${view.seat}.${view.epoch}`);
  const [comment, setComment] = useKeptText(`decide.${view.seat}.${view.epoch}`);
  const [agreed, setAgreed] = useState(false);
  const { decide, see } = useSeatActs(view, base);
  // What is told as seen is what stands on the screen, not what may have come meanwhile.
  const scope = content?.scope;
  const needs = needsOf(view, 'decide');
  const { positive, offered, unnamed, notBefore } = useResponding(needs, comment, scope, see);

  const order = (field: Field) => content?.documents.findIndex(({ id }) => id === field.file) ?? 0;
  const fields = view.fields.slice().sort((a, b) => order(a) - order(b));
  const values = Object.fromEntries(
    Object.entries(kept ?? {}).filter(([id]) => fields.some((field) => field.id === id)),
  );
  const faults = valueFaults(fields, new Map(Object.entries(values)));
  const left = fields.filter((field) => faults.some((fault) => fault.field === field.id));

  const current = fields.find((field) => field.id === active) ?? null;
  const fill = (field: Field, value: FieldValue | undefined) => {
    const { [field.id]: _, ...others } = values;
    setMissing(null);
    keep(value ? { ...others, [field.id]: value } : others);
  };
  const goTo = (field: Field) => {
    // What is already known is offered, and can be changed.
    const { name, work, company, email } = view.me ?? {};
    const offered = { name, jobTitle: work, company, email }[field.kind as string];
    if (!values[field.id] && offered) fill(field, { kind: 'text', text: offered });
    setMissing(null);
    setPanel(null);
    setActive(field.id);
    setChosen(field.file);
    requestAnimationFrame(() => bringIntoSight(scroller.current, field));
  };

  return {
    content,
    document,
    stale: content !== null && view.content !== null && content.scope !== view.content.scope,
    fields,
    values,
    left,
    current,
    panel,
    setPanel,
    reason,
    setReason,
    comment,
    setComment,
    agreed,
    setAgreed,
    positive,
    offered,
    notBefore,
    /** On to the response; whoever is to be named first is asked for before. */
    confirm: () => setPanel(unnamed ? 'name' : 'confirm'),
    unnamed,
    busy: decide.isPending,
    error: decide.error,
    leaveField: () => setActive(null),
    fill,
    showDocument: (id: string) => {
      setChosen(id);
      setActive(null);
      scroller.current?.scrollTo({ top: 0 });
    },
    showNewest: () => {
      setOpened(view.content);
      setActive(null);
      setPanel(null);
    },
    goTo,
    /** The required field that was just left empty. */
    missing,
    /** On to the next field; from an empty one that is required only when that has been said once. */
    goOn: (next: Field) => {
      if (current && left.includes(current) && missing !== current.id) setMissing(current.id);
      else goTo(next);
    },
    decide: (outcome: Outcome) =>
      content &&
      decide.put(
        {
          scope: content.scope,
          outcome,
          note: outcome === 'returned' || outcome === 'declined' ? reason : comment,
          values: outcome === 'signed' ? values : {},
        },
        () => {
          keep(null);
          setReason('');
          setComment('');
        },
      ),
  };
}

/** Scrolls a field's place on its page into what is seen of the pages. */
function bringIntoSight(scroller: HTMLDivElement | null, field: Field): void {
  const element = scroller?.querySelector<HTMLElement>(`[data-place="${CSS.escape(field.id)}"]`);
  if (!element || !scroller) return;
  const [place, seen] = [element.getBoundingClientRect(), scroller.getBoundingClientRect()];
  scroller.scrollTo({
    top: Math.max(0, place.top - seen.top + scroller.scrollTop - Math.min(90, seen.height / 3)),
    left: Math.max(0, place.left - seen.left + scroller.scrollLeft - (seen.width - place.width) / 2),
    behavior: matchMedia('(prefers-reduced-motion: reduce)').matches ? 'auto' : 'smooth',
  });
}
