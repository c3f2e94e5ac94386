'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { lineFrom } from '@/core/line/compact';
import { useValueWords } from '../circulation/conditionWords';
import { phaseWords } from '../circulation/words';
import { useRouter } from '../data/ahead';
import type { OutputOf } from '../data/client';
import { useNamesThen, usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { useLineWords } from '../line/LineParts';
import { TinyLine } from '../line/TinyLine';
import { toneOf } from '../line/tone';
import { registerWords as words } from './words';

type RecordView = OutputOf<'record.view'>;

/** What a document is: its type, its owner, why its current revision was made and who approved it. */
export function RecordFacts({ data }: { readonly data: RecordView }) {
  const { name } = usePeople();
  const then = useNamesThen(data.past);
  const worded = useValueWords();
  const facts = [
    [words.kind, data.typeName],
    [words.owner, name(data.owner)],
    ...(data.unitName ? [[words.unit, data.unitName]] : []),
    ...data.detailTypes.flatMap((type) => {
      const value = data.details[type.id];
      return value ? [[type.name, worded(value)]] : [];
    }),
    ...(data.approvers.length > 0
      ? [[words.approvedBy, data.approvers.map(({ person, at }) => then(person, at)).join(', ')]]
      : []),
    ...(data.reason ? [[words.reasonFact, data.reason]] : []),
  ] as const;
  return (
    <Flex
      as="dl"
      columnGap="36px"
      rowGap="6px"
      flexWrap="wrap"
      py="8px"
      borderBottom="1px solid"
      borderColor="hairline"
    >
      {facts.map(([label, value]) => (
        <Box key={label} maxW="460px">
          <chakra.dt fontSize="12.5px" color="quiet">
            {label}
          </chakra.dt>
          <chakra.dd>{value}</chakra.dd>
        </Box>
      ))}
    </Flex>
  );
}

/** The circulations of a document; those that one may open are buttons. */
export function RecordCirculations({ data }: { readonly data: RecordView }) {
  const router = useRouter();
  const times = useTimes();
  const lineWords = useLineWords();
  return (
    <Box>
      <chakra.h2 fontSize="13.5px" mb="6px">
        {words.circulations}
      </chakra.h2>
      {data.circulations.map((circulation) => {
        const cells = (
          <>
            <Box w="56px" color="quiet">
              {circulation.number}
            </Box>
            <Box flex="1">{phaseWords[circulation.phase]}</Box>
            {circulation.mine && (
              <TinyLine
                model={lineFrom(circulation.line)}
                tone={toneOf({ stops: circulation.stops ?? 0, nextDue: circulation.nextDue ?? null }, times.now())}
                words={lineWords}
              />
            )}
          </>
        );
        return circulation.id ? (
          <chakra.button
            key={circulation.number}
            type="button"
            display="flex"
            w="100%"
            gap="14px"
            alignItems="center"
            textAlign="start"
            h="38px"
            borderBottom="1px solid"
            borderColor="hairline"
            cursor="pointer"
            _hover={{ bg: 'sunk' }}
            onClick={() => router.push(`/circulations/${circulation.id}`)}
          >
            {cells}
          </chakra.button>
        ) : (
          <Flex
            key={circulation.number}
            gap="14px"
            align="center"
            h="38px"
            borderBottom="1px solid"
            borderColor="hairline"
          >
            {cells}
          </Flex>
        );
      })}
    </Box>
  );
}
