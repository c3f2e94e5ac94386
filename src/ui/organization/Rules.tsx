'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { Rule } from '@/server/organization/rules';
import { say } from '../data/said';
import { useAsk, useTell } from '../data/use';
import { SideButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { organizationWords as words } from './words';

/** The rules of the organization, each with what it does, turned on and off where it stands. */
export function Rules({ rules, administers }: { readonly rules: readonly Rule[]; readonly administers: boolean }) {
  const { data: reach } = useAsk('rules.reach', {}, { enabled: administers });
  const set = useTell('rules.set', { answered: (_value, { on }) => say(words.ruleChanged(on)) });
  return (
    <Box px={{ base: '16px', md: '24px' }} overflowY="auto" flex="1" minH={0} pb="24px">
      <Fault error={set.error} />
      {(Object.keys(words.rules) as Rule[]).map((rule) => {
        const on = rules.includes(rule);
        return (
          <Flex key={rule} gap="24px" py="14px" borderBottom="1px solid" borderColor="hairline" align="flex-start">
            <Box flex="1" maxW="760px">
              <Box fontWeight={600}>{words.rules[rule].name}</Box>
              <Box color="quiet" mt="2px">
                {words.rules[rule].more}
              </Box>
              {reach && <Box mt="2px">{words.reach[rule](reach[rule].circulations, reach[rule].people)}</Box>}
            </Box>
            <Box w="44px" fontWeight={600} color={on ? 'pine' : 'quiet'} pt="6px">
              {on ? words.on : words.off}
            </Box>
            {administers && (
              <SideButton
                w="96px"
                aria-label={`${on ? words.turnOff : words.turnOn}: ${words.rules[rule].name}`}
                busy={set.isPending && set.variables?.rule === rule}
                onClick={() => set.mutate({ rule, on: !on })}
              >
                {on ? words.turnOff : words.turnOn}
              </SideButton>
            )}
          </Flex>
        );
      })}
    </Box>
  );
}
