'use client';

import type { SeatView } from '@/server/signing/view';
import { SideButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { useHolderActs } from './useHolderActs';
import { signingWords as words } from './words';

/** Takes a group's task, so that the others leave it to whoever does, or gives it back to the group. */
export function TakeOrGiveBack({
  own,
  take,
  giveBack,
}: {
  readonly own: Pick<SeatView, 'circulation' | 'seat' | 'epoch'>;
  /** What is offered now. */
  readonly take: boolean;
  readonly giveBack: boolean;
}) {
  const acts = useHolderActs(own);
  return (
    <>
      <Fault error={acts.error} />
      {take && (
        <SideButton title={words.takeWhat} busy={acts.busy} onClick={acts.take}>
          {words.take}
        </SideButton>
      )}
      {giveBack && (
        <SideButton busy={acts.busy} onClick={acts.giveBack}>
          {words.giveBack}
        </SideButton>
      )}
    </>
  );
}
