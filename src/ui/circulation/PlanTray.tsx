'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { type Series, stagesOf } from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople } from '../data/people';
import { verbWords } from '../line/words';
import { WordButton } from '../parts/buttons';
import { Fact, Tray } from '../parts/parts';
import type { Planning } from './usePlanning';
import { circulationWords, findingWords } from './words';

const words = circulationWords.plan;

/** The tray under a plan: what the checks found, and who gets it when. */
export function PlanTray({ view, planning }: { readonly view: CirculationView; readonly planning: Planning }) {
  const { route, stages, findings, stops, select } = planning;
  const { name } = usePeople();
  const router = useRouter();
  const [open, setOpen] = useState(true);
  return (
    <Tray
      label={words.checks}
      open={open && findings.length > 0}
      onToggle={() => setOpen(!open)}
      facts={
        <>
          <Fact name={words.checks}>
            {findings.length === 0 ? words.fine : words.found(stops.length, findings.length - stops.length)}
          </Fact>
          <Fact name={words.when}>{whoWhen(route, name)}</Fact>
        </>
      }
    >
      {findings.length > 0 &&
        findings.map((finding) => {
          const stage = stages.find((candidate) => candidate.id === finding.stage);
          const seat = stage?.seats.find((candidate) => candidate.id === finding.seat);
          return (
            <Flex key={`${finding.code} ${finding.stage} ${finding.seat}`} gap="14px" py="3px" align="center">
              <Box
                w="112px"
                color={finding.severity === 'stops' ? 'oxblood' : 'copperText'}
                fontWeight={600}
                flex="none"
              >
                {finding.severity === 'stops' ? words.stops : words.warns}
              </Box>
              <Box>
                {stage ? `${verbWords[stage.verb]}: ` : ''}
                {seat && finding.code === 'field-missing' ? `${name(seat.assignment.person)} ` : ''}
                {findingWords[finding.code]}
              </Box>
              {stage && finding.code !== 'field-missing' && (
                <WordButton onClick={() => select(stage.id)}>
                  {words.stageOf(verbWords[stage.verb], stages.indexOf(stage) + 1)}
                </WordButton>
              )}
              {finding.code === 'field-missing' && view.newest !== null && (
                <WordButton onClick={() => router.push(`/circulations/${view.id}/fields`)}>
                  {words.putFields}
                </WordButton>
              )}
            </Flex>
          );
        })}
    </Tray>
  );
}

function whoWhen(route: Series, name: (id: string) => string): string {
  const stages = stagesOf(route);
  return stages
    .map(
      (stage, i) =>
        `${i === 0 ? words.first : words.after(verbWords[stages[i - 1]?.verb ?? 'review'])}: ${stage.seats.map((seat) => name(seat.assignment.person).split(' ')[0]).join(', ') || '–'}`,
    )
    .join('; ');
}
