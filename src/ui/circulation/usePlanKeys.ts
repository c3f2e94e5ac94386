import { useEffect, useRef } from 'react';
import { copiesOf, partsOf, stagesOf } from '@/core/route/route';
import { usePageKeys } from '../data/pageKeys';
import { useKept } from '../data/useKept';
import type { StagePanel } from './StageLeaf';
import type { Planning } from './usePlanning';
import { circulationWords } from './words';

const words = circulationWords.plan.keys;

/**
 * Planning by keyboard: arrows go along the line, a letter adds where one stands, Alt with an arrow moves. Letters count
 * outside fields; with Alt they count everywhere.
 */
export function usePlanKeys(planning: Planning, onPanel: (panel: StagePanel) => void, onSend: () => void): void {
  const [off] = useKept<boolean>('singleKeysOff');
  usePageKeys([
    ['← →', words.along],
    ['Alt ← →', words.move],
    ['N', words.stage],
    ['Shift N', words.stageAtEnd],
    ['B', words.branch],
    ['O', words.only],
    ['E', words.earliest],
    ['C', words.copy],
    ['P', words.people],
    ['Del', words.remove],
    ['S', words.send],
  ]);
  const now = useRef({ planning, onPanel, onSend, off });
  now.current = { planning, onPanel, onSend, off };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { planning: plan, off: single } = now.current;
      const target = event.target as HTMLElement;
      const writing = target.closest('input, textarea, select, [contenteditable=true]') !== null;
      if (!plan.editable || event.ctrlKey || event.metaKey || event.defaultPrevented) return;
      if ((writing || single) && !event.altKey) return;
      if (act(event, now.current)) event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}

interface Now {
  readonly planning: Planning;
  readonly onPanel: (panel: StagePanel) => void;
  readonly onSend: () => void;
}

/** Does what a key stands for; false where it stands for nothing. */
function act(event: KeyboardEvent, { planning, onPanel, onSend }: Now): boolean {
  const { open, route } = planning;
  const at = stagesOf(route).find((stage) => stage.id === open) ?? copiesOf(route).find((board) => board.id === open);
  switch (event.code) {
    case 'ArrowLeft':
    case 'ArrowRight': {
      const by = event.code === 'ArrowLeft' ? -1 : 1;
      if (event.altKey) {
        if (at) planning.shift(at.id, by);
        return true;
      }
      // In reading order: stages, boards, and the branches that they stand in.
      const places = partsOf(route).flatMap((part) =>
        part.kind === 'parallel'
          ? part.branches.map((branch) => branch.route.id)
          : part.kind === 'series'
            ? []
            : [part.id],
      );
      const order = readingOrder(route, new Set(places));
      const next = order[Math.max(0, Math.min(order.length - 1, order.indexOf(open ?? '') + by))];
      if (next) planning.select(next);
      return true;
    }
    case 'KeyN':
      planning.add(event.shiftKey ? null : (at?.id ?? null));
      return true;
    case 'KeyB':
      if (at?.kind === 'stage') planning.branch(at.id);
      return true;
    case 'KeyO':
      onPanel('condition');
      return true;
    case 'KeyE':
      if (at?.kind === 'stage') onPanel('earliest');
      return true;
    case 'KeyC':
      if (at) planning.copy(at.id);
      return true;
    case 'KeyP':
      document.querySelector<HTMLInputElement>('[data-who] input')?.focus();
      return true;
    case 'KeyS':
      onSend();
      return true;
    case 'Delete':
      if (open !== null) planning.remove(open);
      return true;
    default:
      return false;
  }
}

/** The places of a route in the order in which they are read, a branch before what stands in it. */
function readingOrder(route: Parameters<typeof partsOf>[0], places: ReadonlySet<string>): string[] {
  return partsOf(route)
    .map((part) => part.id)
    .filter((id) => places.has(id));
}
