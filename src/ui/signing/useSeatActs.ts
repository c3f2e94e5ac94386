import { useCallback } from 'react';
import type { FieldValue } from '@/core/page/fields';
import type { Outcome } from '@/core/route/verbs';
import type { SeatView } from '@/server/signing/view';
import { useAct } from '../circulation/useAct';
import { toldWords } from '../circulation/words';
import { useTell } from '../data/use';

export type Values = Readonly<Record<string, FieldValue>>;

interface Said {
  readonly scope: string;
  readonly outcome: Outcome;
  readonly note: string;
  readonly values: Values;
}

/** What the holder of a seat does from its page: as a member, or through their link. */
export function useSeatActs(
  { circulation, seat, epoch }: Pick<SeatView, 'circulation' | 'seat' | 'epoch'>,
  base: string,
) {
  const { mutate: seeAsMember } = useTell('circulation.see');
  const { mutate: seeThroughLink } = useTell('seat.see', { base });
  const asMember = useAct('seat.decideMine', (input) => toldWords.outcomes[input.outcome]);
  const throughLink = useTell('seat.decide', { base });
  const member = base === '';
  const see = useCallback(
    (scope: string) => (member ? seeAsMember({ circulation, seat, epoch, scope }) : seeThroughLink({ scope })),
    [member, seeAsMember, seeThroughLink, circulation, seat, epoch],
  );
  const { isPending, error } = member ? asMember : throughLink;
  const put = (said: Said, onSuccess: () => void) =>
    member
      ? asMember.mutate({ circulation, seat, epoch, ...said }, { onSuccess })
      : throughLink.mutate({ seat, epoch, ...said }, { onSuccess });
  return { see, decide: { put, isPending, error } };
}
