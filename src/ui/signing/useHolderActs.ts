import type { Assignee } from '@/core/route/route';
import type { SeatView } from '@/server/signing/view';
import { useAct } from '../circulation/useAct';
import { toldWords } from '../circulation/words';
import { useTell } from '../data/use';

type Own = Pick<SeatView, 'circulation' | 'seat' | 'epoch'>;

/** Somebody outside, as others outside know them. */
export interface Outsider {
  readonly name: string;
  readonly email: string;
}

/** What a member does with the seat they hold besides deciding. */
export function useHolderActs({ circulation, seat, epoch }: Own) {
  const on = { circulation, seat, epoch };
  const taking = useAct('circulation.take', toldWords.taken);
  const givingBack = useAct('circulation.giveBack', toldWords.givenBack);
  const naming = useAct('circulation.name', toldWords.named);
  return {
    take: () => taking.mutate(on),
    giveBack: () => givingBack.mutate(on),
    nameFor: (names: string, to: Assignee) => naming.mutate({ ...on, names, to }),
    busy: taking.isPending || givingBack.isPending || naming.isPending,
    error: taking.error ?? givingBack.error ?? naming.error,
  };
}

/** What somebody outside does with their seat through its link besides deciding. */
export function useLinkActs(base: string) {
  const naming = useTell('seat.name', { base });
  const delegating = useTell('seat.delegate', { base });
  return {
    nameFor: (names: string, who: Outsider, after: () => void) =>
      naming.mutate({ names, ...who }, { onSuccess: after }),
    delegate: (who: Outsider, note: string) => delegating.mutate({ ...who, note }),
    busy: naming.isPending || delegating.isPending,
    error: naming.error ?? delegating.error,
  };
}
