'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { atInstant, instantOf } from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { useGround } from '../data/useGround';
import { useKeptForm } from '../data/useKept';
import { verbThird, verbWords } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { Fault } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { Leaf } from '../parts/parts';
import { needsOf } from './offers';
import { SeatPerson, useSeatNames } from './SeatPerson';
import { useAct } from './useAct';
import { outcomeWords, roundWords, toldWords, circulationWords as words } from './words';

/** Who is kept and who is asked again, with the reasons; the controller changes it and confirms. */
export function RoundLeaf({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const seatName = useSeatNames(view);
  // What was chosen belongs to this version in this round.
  const [chosenSo, choices, forget] = useKeptForm<{
    turned: readonly string[];
    left: readonly string[];
    dues: Readonly<Record<string, number | null>>;
  }>(`round.${view.id}.${view.round}.${view.newest}`, { turned: [], left: [], dues: {} });
  const { dues } = chosenSo;
  const [turned, left] = [new Set(chosenSo.turned), new Set(chosenSo.left)];

  const present = needsOf(view, 'confirmRound');
  const confirm = useAct('circulation.confirmRound', () => toldWords.round(view.round + 1), {
    answered: forget,
    after: onDone,
  });
  useGround(present !== null, confirm, onDone);
  // The list that was opened stays under the eyes; one that has changed since is told, and only what is shown is confirmed.
  const [needs, look] = useState(present);
  const changed = present?.basis !== needs?.basis;
  const lines = needs?.lines ?? [];
  const proposed = new Map(needs?.times?.map((entry) => [entry.stage, entry]));
  const seatOf = new Map(view.seats.map((seat) => [seat.id, seat]));
  const keeps = (line: { seat: string; keep: boolean }) => line.keep !== turned.has(line.seat);
  const dueOf = (stage: CirculationView['stages'][number]) => {
    const chosen = dues[stage.id];
    return chosen !== undefined ? chosen : instantOf(proposed.get(stage.id)?.due ?? null);
  };
  // Whom the round reaches for the first time is asked in their turn; there is nothing to choose.
  const later = lines.filter((line) => line.reason === 'notAskedBefore');
  const chosen = lines.filter((line) => line.reason !== 'notAskedBefore');
  const keptNow = new Set(lines.filter((line) => keeps(line) && !left.has(line.seat)).map((line) => line.seat));
  // Whose seat it is has responded in a stage that this one must not share people with, and that response is kept.
  const aloneBeside = (seat: string) =>
    keptNow.has(seat) || left.has(seat)
      ? undefined
      : needs?.alone?.find((one) => one.seat === seat && keptNow.has(one.kept))?.kept;
  const again = chosen.filter((line) => !keeps(line) && !left.has(line.seat));
  const stages = view.stages.filter(
    (stage) =>
      stage.due !== null ||
      dues[stage.id] !== undefined ||
      [...again, ...later].some((line) => seatOf.get(line.seat)?.stage === stage.id),
  );
  const choose = (line: { seat: string; keep: boolean }, choice: 'keep' | 'ask' | 'leave') => {
    const without = (of: ReadonlySet<string>) => [...of].filter((seat) => seat !== line.seat);
    const change = choice !== 'leave' && line.keep !== (choice === 'keep');
    choices({
      turned: change ? [...without(turned), line.seat] : without(turned),
      left: choice === 'leave' ? [...without(left), line.seat] : without(left),
    });
  };
  const title = words.roundTitle(view.round + 1);
  const sameFile = view.rework?.version === view.newest && view.rework?.cause === 'returned';

  return (
    <Leaf label={title}>
      <Box fontWeight={600}>{title}</Box>
      <Box color="quiet" mb="8px">
        {sameFile ? words.roundSame : words.roundNew(view.newest ?? 0)}
      </Box>
      {chosen.map((line) => {
        const seat = seatOf.get(line.seat);
        if (!seat) return null;
        const kept = keeps(line);
        const fixed = !needs?.keepable?.includes(line.seat);
        const leavable = needs?.leavable?.includes(line.seat) ?? false;
        const beside = seatOf.get(aloneBeside(line.seat) ?? '');
        return (
          <Flex key={line.seat} gap="16px" align="center" py="5px" borderBottom="1px solid" borderColor="hairline">
            <Box w="240px">
              <SeatPerson view={view} seat={seat} quiet={verbThird[seat.verb]} />
            </Box>
            <Box flex="1" color={beside ? 'copperText' : 'quiet'} truncate={!beside}>
              {beside ? (
                words.roundAlone(verbWords[beside.verb].toLowerCase())
              ) : (
                <>
                  {seat.decision && seat.decision.outcome !== line.reason
                    ? `${outcomeWords[seat.decision.outcome]}, `
                    : ''}
                  {seat.keepable === 'signature-changed' ? words.roundSignature : roundWords[line.reason]}
                </>
              )}
            </Box>
            <ChoiceRow
              label={seatName(seat)}
              choices={(['keep', 'ask', ...(leavable ? (['leave'] as const) : [])] as const).map((choice) => ({
                key: choice,
                name: words.roundChoices[choice],
                disabled: fixed && choice === 'keep',
              }))}
              chosen={left.has(line.seat) ? 'leave' : kept ? 'keep' : 'ask'}
              onChoose={(choice) => choose(line, choice)}
            />
          </Flex>
        );
      })}
      {stages.length > 0 && (
        <Box mt="12px">
          <Box fontSize="13px" color="quiet" mb="4px">
            {words.roundTimes}
          </Box>
          <Flex gap="18px" flexWrap="wrap">
            {stages.map((stage) => (
              <Flex key={stage.id} gap="8px" align="center">
                {verbWords[stage.verb]}
                <MomentInput
                  aria-label={verbWords[stage.verb]}
                  value={dueOf(stage)}
                  onChange={(due) => choices({ dues: { ...dues, [stage.id]: due } })}
                />
              </Flex>
            ))}
          </Flex>
        </Box>
      )}
      {changed && present && (
        <Flex role="alert" gap="14px" mt="10px" align="center" color="copperText">
          {words.roundChanged}
          <WordButton onClick={() => look(present)}>{words.roundLook}</WordButton>
        </Flex>
      )}
      <Fault error={confirm.error} />
      <Flex gap="14px" mt="12px" align="center" justify="flex-end" flexWrap="wrap">
        {later.length > 0 && (
          <Box color="quiet" fontSize="13px" flex="1">
            {words.roundLater(
              later
                .flatMap((line) => {
                  const seat = seatOf.get(line.seat);
                  return seat ? [seatName(seat)] : [];
                })
                .join(', '),
            )}
          </Box>
        )}
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={confirm.isPending}
          disabled={!needs || changed}
          onClick={() =>
            confirm.mutate({
              circulation: view.id,
              basis: needs?.basis ?? '',
              keep: [...keptNow],
              leave: [...left],
              times: stages.map((stage) => ({
                stage: stage.id,
                due: atInstant(dueOf(stage)),
                closes: proposed.get(stage.id)?.closes ?? null,
              })),
            })
          }
        >
          {words.roundDo(again.length)}
        </DueButton>
      </Flex>
    </Leaf>
  );
}
