'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { type Assignment, type Copies, groupAsked, personOf } from '@/core/route/route';
import { useAssignments } from '../data/organization';
import { usePeople } from '../data/people';
import { WordButton } from '../parts/buttons';
import { Tick } from '../parts/form';
import { Leaf, PersonName } from '../parts/parts';
import type { Planning } from './usePlanning';
import { WhoPicker } from './WhoPicker';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** A board opened under the line: who gets the result of what went before, without being asked. */
export function CopiesLeaf({ board, planning }: { readonly board: Copies; readonly planning: Planning }) {
  const { name } = usePeople();
  const { called } = useAssignments();
  const { edit } = planning;
  const [fresh] = useState(board.to.length === 0);
  const set = (part: Partial<Pick<Copies, 'to' | 'hidden'>>) =>
    edit({ do: 'changeCopies', copies: board.id, with: part });
  const people = board.to.flatMap(({ assignment }) => personOf(assignment) ?? []);
  return (
    <Leaf label={words.copies}>
      <Flex gap="28px" flexWrap="wrap" align="flex-start">
        <Box flex="1" minW="300px" maxW="520px">
          <Box fontSize="13px" color="quiet" mb="4px">
            {words.copies}
          </Box>
          {board.to.map((entry) => (
            <Flex key={entry.id} align="center" gap="8px" py="3px">
              <Box flex="1" minW={0}>
                {personOf(entry.assignment) === null ? (
                  called(entry.assignment)
                ) : (
                  <PersonName id={personOf(entry.assignment) ?? ''} />
                )}
              </Box>
              <WordButton
                color="oxblood"
                fontWeight={500}
                aria-label={`${words.remove}: ${called(entry.assignment)}`}
                onClick={() => set({ to: board.to.filter((other) => other !== entry) })}
              >
                {words.remove}
              </WordButton>
            </Flex>
          ))}
          <WhoPicker
            label={words.addCopy}
            focused={fresh}
            insideOnly
            exclude={people}
            why={(person) => words.hasCopy(name(person))}
            onPick={(assignment) => {
              const given = groupAsked(assignment) ? ({ ...assignment, members: 'every' } as Assignment) : assignment;
              set({ to: [...board.to, { id: crypto.randomUUID(), assignment: given }] });
            }}
          />
        </Box>
        <Box flex="1" minW="240px">
          <Box color="quiet">{words.copiesMore}</Box>
          <Tick checked={board.hidden} onChecked={(hidden) => set({ hidden })}>
            {words.copiesHidden}
          </Tick>
        </Box>
      </Flex>
      <Flex gap="20px" mt="14px" pt="10px" borderTop="1px solid" borderColor="hairline">
        <WordButton onClick={() => planning.add(board.id)}>{words.stageAfter}</WordButton>
        <Box flex="1" />
        <WordButton color="oxblood" onClick={() => planning.remove(board.id)}>
          {words.removeCopies}
        </WordButton>
      </Flex>
    </Leaf>
  );
}
