'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople, useTell, useTimes } from '../data/use';
import { verbThird, verbWords } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { Leaf, PersonName } from '../parts/parts';
import { outcomeWords, roundWords, circulationWords as words } from './words';

/** Who is kept and who is asked again, with the reasons; the controller changes it and confirms. */
export function RoundLeaf({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const { name } = usePeople();
  const times = useTimes();
  const propose = useTell<{ circulation: string }>('circulation.proposeRound');
  const confirm = useTell<object>('circulation.confirmRound', { after: onDone });
  const [turned, setTurned] = useState<ReadonlySet<string>>(new Set());
  const [dues, setDues] = useState<Readonly<Record<string, number | null>>>({});
  const asked = useRef(false);
  const { mutate } = propose;
  useEffect(() => {
    if (asked.current) return;
    asked.current = true;
    mutate({ circulation: view.id });
  }, [mutate, view.id]);

  const plan = view.plan;
  const current = plan && plan.version === view.newest && plan.decisions === view.decisions ? plan : null;
  const seatOf = new Map(view.seats.map((seat) => [seat.id, seat]));
  const keeps = (line: { seat: string; keep: boolean }) => line.keep !== turned.has(line.seat);
  const shift = Math.max(0, times.now() - (view.sent ?? times.now()));
  const dueOf = (stage: CirculationView['stages'][number]) => {
    const chosen = dues[stage.id];
    if (chosen !== undefined) return chosen;
    if (stage.due === null) return null;
    if (stage.due > times.now() + 3_600_000) return stage.due;
    const moved = stage.due + Math.ceil(shift / 86_400_000) * 86_400_000;
    return moved > times.now() ? moved : times.now() + 2 * 86_400_000;
  };
  const again = current?.lines.filter((line) => !keeps(line)) ?? [];
  const stages = view.stages.filter(
    (stage) =>
      stage.due !== null ||
      dues[stage.id] !== undefined ||
      again.some((line) => seatOf.get(line.seat)?.stage === stage.id),
  );
  const title = words.roundTitle(view.round + 1);
  const sameFile = view.rework?.version === view.newest && view.rework?.cause === 'returned';

  return (
    <Leaf label={title}>
      <Box fontWeight={600}>{title}</Box>
      <Box color="quiet" mb="8px">
        {sameFile ? words.roundSame : words.roundNew(view.newest ?? 0)}
      </Box>
      {current?.lines.map((line) => {
        const seat = seatOf.get(line.seat);
        if (!seat) return null;
        const kept = keeps(line);
        const fixed = seat.keepable !== 'yes';
        return (
          <Flex key={line.seat} gap="16px" align="center" py="5px" borderBottom="1px solid" borderColor="hairline">
            <Box w="240px">
              <PersonName id={seat.holder} quiet={verbThird[seat.verb]} />
            </Box>
            <Box flex="1" color="quiet" truncate>
              {seat.decision ? `${outcomeWords[seat.decision.outcome]}, ` : ''}
              {seat.keepable === 'signature-changed' ? words.roundSignature : roundWords[line.why]}
            </Box>
            <Flex role="radiogroup" aria-label={name(seat.holder)} gap="4px">
              {([true, false] as const).map((value) => (
                <chakra.button
                  key={String(value)}
                  type="button"
                  role="radio"
                  aria-checked={kept === value}
                  disabled={fixed && value}
                  minH="28px"
                  px="10px"
                  borderRadius="14px"
                  cursor="pointer"
                  border="1px solid"
                  borderColor={kept === value ? 'pine' : 'hairline'}
                  bg={kept === value ? 'pineSoft' : 'transparent'}
                  color={kept === value ? 'ink' : 'quiet'}
                  fontWeight={kept === value ? 600 : 400}
                  _disabled={{ opacity: 0.4, cursor: 'not-allowed' }}
                  onClick={() => {
                    if (kept === value) return;
                    const next = new Set(turned);
                    if (next.has(line.seat)) next.delete(line.seat);
                    else next.add(line.seat);
                    setTurned(next);
                  }}
                >
                  {value ? words.roundKeep : words.roundAsk}
                </chakra.button>
              ))}
            </Flex>
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
                  onChange={(due) => setDues({ ...dues, [stage.id]: due })}
                />
              </Flex>
            ))}
          </Flex>
        </Box>
      )}
      <Fault error={propose.error ?? confirm.error} />
      <Flex gap="14px" mt="12px" align="center" justify="flex-end" flexWrap="wrap">
        <Box color="quiet" fontSize="13px">
          {words.roundFirst}
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={confirm.isPending || !current}
          onClick={() =>
            current &&
            confirm.mutate({
              circulation: view.id,
              revision: current.revision,
              version: current.version,
              decisions: current.decisions,
              keep: current.lines.filter(keeps).map((line) => line.seat),
              times: stages.map((stage) => ({
                stage: stage.id,
                due: dueOf(stage),
                closes: stage.closes !== null && stage.closes > times.now() ? stage.closes : null,
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
