'use client';

import { Box, Flex } from '@chakra-ui/react';
import { type Rule, type Stage, type Verb, verbs } from '@/core/route/route';
import { verbWords } from '../line/words';
import { Choose, FormField, TextInput } from '../parts/form';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** What a stage asks, in which order, when it is complete, and what a decline does. */
export function StageRules({ stage, set }: { readonly stage: Stage; readonly set: (part: Partial<Stage>) => void }) {
  return (
    <Box flex="1" minW="260px">
      <Flex gap="14px">
        <Box flex="1">
          <FormField label={words.verb}>
            {(props) => (
              <Choose {...props} value={stage.verb} onChange={(event) => set({ verb: event.target.value as Verb })}>
                {verbs.map((verb) => (
                  <option key={verb} value={verb}>
                    {verbWords[verb]}
                  </option>
                ))}
              </Choose>
            )}
          </FormField>
        </Box>
        <Box flex="1">
          <FormField label={words.order}>
            {(props) => (
              <Choose
                {...props}
                value={stage.order}
                onChange={(event) => set({ order: event.target.value as Stage['order'] })}
              >
                <option value="together">{words.together}</option>
                <option value="oneByOne">{words.oneByOne}</option>
              </Choose>
            )}
          </FormField>
        </Box>
      </Flex>
      <Flex gap="14px">
        <Box flex="1">
          <FormField label={words.rule}>
            {(props) => (
              <Choose
                {...props}
                value={stage.rule.kind}
                onChange={(event) => set({ rule: ruleOf(event.target.value, stage.seats.length) })}
              >
                <option value="all">{words.all}</option>
                <option value="any">{words.any}</option>
                <option value="atLeast">{words.atLeast}</option>
              </Choose>
            )}
          </FormField>
        </Box>
        {stage.rule.kind === 'atLeast' && (
          <Box w="90px">
            <FormField label={words.atLeastN}>
              {(props) => (
                <TextInput
                  {...props}
                  type="number"
                  min={1}
                  max={Math.max(1, stage.seats.length)}
                  value={stage.rule.kind === 'atLeast' ? stage.rule.k : 1}
                  onChange={(event) =>
                    set({
                      rule: {
                        kind: 'atLeast',
                        k: Math.max(1, Math.min(stage.seats.length, Number(event.target.value) || 1)),
                      },
                    })
                  }
                />
              )}
            </FormField>
          </Box>
        )}
        <Box flex="1">
          <FormField label={words.onDecline}>
            {(props) => (
              <Choose
                {...props}
                value={stage.onDecline}
                onChange={(event) => set({ onDecline: event.target.value as Stage['onDecline'] })}
              >
                <option value="stop">{words.stop}</option>
                <option value="count">{words.count}</option>
              </Choose>
            )}
          </FormField>
        </Box>
      </Flex>
    </Box>
  );
}

function ruleOf(kind: string, n: number): Rule {
  if (kind === 'any') return { kind: 'any' };
  return kind === 'atLeast' ? { kind: 'atLeast', k: Math.max(1, Math.ceil(n / 2)) } : { kind: 'all' };
}
