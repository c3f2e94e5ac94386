import { type RefObject, useState } from 'react';
import { type Field, type FieldKind, fieldSizes, lintFields, type PageSize } from '@/core/page/fields';
import { verbFacts } from '@/core/route/verbs';
import type { CirculationView } from '@/server/circulation/view';
import { may } from '../circulation/offers';
import { useSeatNames } from '../circulation/SeatPerson';
import { useAct } from '../circulation/useAct';
import { toldWords } from '../circulation/words';
import { useRouter } from '../data/ahead';
import { useKept } from '../data/useKept';
import { useUndo } from '../data/useUndo';

export type FieldsWork = NonNullable<ReturnType<typeof useFields>>;

/** Kinds that a signer need not fill in unless it is said. */
const optional: readonly FieldKind[] = ['text', 'tick'];

/** The fields of one document while they are put on its pages: held on this device until they are kept. */
export function useFields(view: CirculationView, scroller: RefObject<HTMLDivElement | null>) {
  const nameOf = useSeatNames(view);
  const router = useRouter();
  const signing = view.seats.filter((seat) => verbFacts[seat.verb].signs);
  const newest = view.versions[view.versions.length - 1];
  const documents = newest?.files.filter((file) => file.role === 'document') ?? [];
  const [shown, setShown] = useState<string | null>(null);
  const waits = (file: (typeof documents)[number]) =>
    view.fieldsOn[file.id] !== file.file && may(view, 'putFields', file.id);
  const main = documents.find((file) => file.id === shown) ?? documents.find(waits) ?? documents[0];
  const [held, hold] = useKept<readonly Field[]>(`fields.${view.id}.${main?.id}.${main?.file}`);
  const fields = held ?? view.fields.filter((field) => field.file === main?.id);
  const { change, undo, can } = useUndo<readonly Field[]>(fields, hold);
  const [chosen, setChosen] = useState<string | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  const put = useAct('circulation.putFields', toldWords.fields, {
    after: () => {
      hold(null);
      const next = documents.find((file) => file.id !== main?.id && waits(file));
      if (next) setShown(next.id);
      else router.push(`/circulations/${view.id}${may(view, 'plan') ? '/plan' : ''}`);
    },
  });
  if (!main) return null;

  const pages: readonly PageSize[] = main.pages ?? [];
  // A signature in any of the documents is enough.
  const signed = new Set(
    [...fields, ...view.fields.filter((field) => field.file !== main.id)]
      .filter((field) => field.kind === 'signature' && field.needed)
      .map((field) => field.seat),
  );
  const missing = signing.filter((seat) => !signed.has(seat.id));
  const reveal = (id: string) =>
    requestAnimationFrame(() => {
      const element = scroller.current?.querySelector<HTMLElement>(`[data-place="${id}"]`);
      if (id !== opened) element?.scrollIntoView({ block: 'nearest' });
      element?.focus({ preventScroll: true });
    });
  const open = (id: string) => {
    setChosen(id);
    setOpened(id);
    reveal(id);
  };
  const add = (field: Omit<Field, 'id' | 'file'>) => {
    const whole = inside({ ...field, id: crypto.randomUUID(), file: main.id }, pages);
    change([...fields, whole]);
    open(whole.id);
  };
  /** A field there: a signature of whoever has none yet, to be said otherwise in its leaf. */
  const putAt = (page: number, x: number, y: number) => {
    const before = fields.find((field) => field.id === chosen);
    const seat = missing[0]?.id ?? before?.seat ?? signing[0]?.id ?? '';
    const kind: FieldKind = missing.length > 0 ? 'signature' : 'signedOn';
    const size = fieldSizes[kind];
    add({ seat, kind, page, x: x - size.width / 2, y: y - size.height / 2, ...size, needed: true, label: '' });
  };
  return {
    signing,
    documents,
    main,
    pages,
    fields,
    unkept: held !== null,
    frozen: !may(view, 'putFields', main.id),
    earlier: view.fieldsOn[main.id] !== undefined && view.fieldsOn[main.id] !== main.file && held === null,
    findings: lintFields(fields, pages, new Set(signing.map((seat) => seat.id))),
    missing,
    seatOf: (field: Field) => signing.find((seat) => seat.id === field.seat),
    nameOf,
    chosen,
    choose: setChosen,
    opened,
    open,
    close: () => {
      setOpened(null);
      if (opened) reveal(opened);
    },
    putAt,
    /** One below those that stand on the page in view, for hands without a mouse. */
    putOne: () => {
      const page = currentPage(scroller.current);
      const size = pages[page] ?? { width: 595, height: 842 };
      const lowest = fields
        .filter((field) => field.page === page)
        .reduce((at, field) => Math.max(at, field.y + field.height + 12), size.height * 0.6);
      putAt(page, size.width * 0.3, Math.min(lowest + 24, size.height - 60));
    },
    change: (id: string, part: Partial<Field>) =>
      change(
        fields.map((field) => (field.id === id ? inside({ ...field, ...part }, pages) : field)),
        `${id} ${Object.keys(part).join()}`,
      ),
    becomes: (field: Field, kind: FieldKind) =>
      change(
        fields.map((other) =>
          other.id === field.id
            ? inside({ ...field, kind, ...fieldSizes[kind], needed: !optional.includes(kind) }, pages)
            : other,
        ),
      ),
    repeatFor: (field: Field, seat: string) => add({ ...field, seat, y: field.y + field.height + 14 }),
    remove: (field: Field) => {
      setOpened(null);
      change(fields.filter((other) => other.id !== field.id));
    },
    showDocument: (file: string) => {
      setShown(file);
      setChosen(null);
      setOpened(null);
    },
    keep: () => put.mutate({ circulation: view.id, file: main.id, content: main.file, fields }),
    asKept: () => hold(null),
    undo: can ? undo : null,
    busy: put.isPending,
    error: put.error,
  };
}

/** Keeps a place inside its page and on whole half points. */
function inside(field: Field, pages: readonly PageSize[]): Field {
  const page = pages[field.page];
  if (!page) return field;
  const width = Math.min(Math.max(14, field.width), page.width);
  const height = Math.min(Math.max(14, field.height), page.height);
  const clamped = (value: number, room: number) => Math.round(Math.min(Math.max(0, value), room) * 2) / 2;
  return {
    ...field,
    width,
    height,
    x: clamped(field.x, page.width - width),
    y: clamped(field.y, page.height - height),
  };
}

function currentPage(scroller: HTMLElement | null): number {
  if (!scroller) return 0;
  const middle = scroller.scrollTop + scroller.clientHeight / 2;
  let found = 0;
  for (const element of scroller.querySelectorAll<HTMLElement>('[data-page]'))
    if (element.offsetTop <= middle) found = Number(element.dataset.page);
  return found;
}
