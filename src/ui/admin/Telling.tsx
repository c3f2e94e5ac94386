'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import {
  always,
  type Happening,
  happenings,
  type Preferences,
  type Way,
  ways,
} from '@/core/circulation/telling/preferences';
import { say } from '../data/said';
import { useAsk, useTell } from '../data/use';
import { Fault, Tick } from '../parts/form';
import { adminWords } from './words';

const words = adminWords.telling;

/** Of what one is told, and in which ways; each choice holds at once. */
export function Telling() {
  const { data } = useAsk('told.preferences');
  const prefer = useTell('told.prefer', { answered: () => say(words.kept) });
  const [chosen, setChosen] = useState<Preferences | null>(null);
  const now = chosen ?? data;
  if (!now) return null;
  const put = (happening: Happening, way: Way, on: boolean) => {
    const kept = ways.filter((one) => (one === way ? on : now[happening].includes(one)));
    const preferences = { ...now, [happening]: kept };
    setChosen(preferences);
    prefer.mutate({ preferences }, { onError: () => setChosen(null) });
  };
  // What reaches one whatever one chooses cannot lose its last way.
  const last = (happening: Happening, way: Way) =>
    always.has(happening) && now[happening].length === 1 && now[happening].includes(way);
  return (
    <>
      <Box mb="8px">{words.what}</Box>
      <chakra.table w="100%" fontSize="13.5px" css={{ borderCollapse: 'collapse' }}>
        <thead>
          <tr>
            <chakra.th scope="col" textAlign="start" fontWeight={600} pb="4px">
              {words.when}
            </chakra.th>
            {ways.map((way) => (
              <chakra.th
                key={way}
                scope="col"
                w="84px"
                whiteSpace="nowrap"
                fontWeight={600}
                pb="4px"
                textAlign="center"
              >
                {words.ways[way]}
              </chakra.th>
            ))}
          </tr>
        </thead>
        <tbody>
          {happenings.map((happening) => (
            <chakra.tr key={happening} borderTop="1px solid" borderColor="hairline">
              <chakra.th scope="row" textAlign="start" fontWeight={400} py="5px" pr="10px">
                {words.happenings[happening]}
              </chakra.th>
              {ways.map((way) => (
                <chakra.td key={way} textAlign="center">
                  <Flex justify="center">
                    <Tick
                      called={`${words.happenings[happening]}: ${words.ways[way]}`}
                      checked={now[happening].includes(way)}
                      disabled={last(happening, way)}
                      onChecked={(on) => put(happening, way, on)}
                    />
                  </Flex>
                </chakra.td>
              ))}
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
      <Box color="quiet" fontSize="13px" mt="8px">
        {words.always}
      </Box>
      <Fault error={prefer.error} />
    </>
  );
}
