'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { type FactType, factKinds, numberText, typedNumber } from '@/core/route/facts';
import { FactInput } from '../circulation/FactInput';
import { SideButton, WordButton } from '../parts/buttons';
import { FormField, TextField, Tick, WordedChoice } from '../parts/form';
import { adminWords } from './words';

const words = adminWords.types;

const begin = (): FactType => ({
  id: crypto.randomUUID(),
  name: '',
  kind: 'amount',
  needed: false,
  choices: [],
  currency: 'EUR',
  least: null,
  most: null,
  standard: null,
});

/** Values that a type declares, of a change or of its documents: name, kind, what is checked, and what stands by itself. */
export function FactTypes({
  label,
  help,
  facts,
  onFacts,
}: {
  readonly label: string;
  readonly help: string;
  readonly facts: readonly FactType[];
  readonly onFacts: (facts: readonly FactType[]) => void;
}) {
  return (
    <Box>
      <Box fontSize="13px" color="quiet">
        {label}
      </Box>
      {facts.map((fact) => (
        <FactRow
          key={fact.id}
          fact={fact}
          onFact={(next) => onFacts(facts.map((one) => (one.id === fact.id ? next : one)))}
          onRemove={() => onFacts(facts.filter((one) => one.id !== fact.id))}
        />
      ))}
      <Flex gap="14px" align="center" mt="6px">
        <SideButton minH="30px" onClick={() => onFacts([...facts, begin()])}>
          {words.factAdd}
        </SideButton>
        <Box color="quiet" fontSize="13px">
          {help}
        </Box>
      </Flex>
    </Box>
  );
}

function FactRow({
  fact,
  onFact,
  onRemove,
}: {
  readonly fact: FactType;
  readonly onFact: (fact: FactType) => void;
  readonly onRemove: () => void;
}) {
  const set = (part: Partial<FactType>) => onFact({ ...fact, ...part });
  const numeric = fact.kind === 'amount' || fact.kind === 'number';
  const usualWidth = fact.kind === 'amount' ? '200px' : fact.kind === 'yesNo' ? '110px' : '150px';
  return (
    <Flex gap="10px" flexWrap="wrap" align="flex-end" py="8px" borderTop="1px solid" borderColor="hairline">
      <Box w="190px">
        <TextField
          label={words.factName}
          required
          maxLength={60}
          value={fact.name}
          onChange={(event) => set({ name: event.target.value })}
        />
      </Box>
      <Box w="180px">
        <WordedChoice
          label={words.factKind}
          of={factKinds}
          words={words.factKinds}
          value={fact.kind}
          onValue={(kind) => set({ kind, standard: null })}
        />
      </Box>
      {fact.kind === 'amount' && (
        <Box w="80px">
          <TextField
            label={words.factCurrency}
            maxLength={3}
            value={fact.currency}
            onChange={(event) => set({ currency: event.target.value.toUpperCase() })}
          />
        </Box>
      )}
      {numeric && (
        <>
          <Bound label={words.factLeast} value={fact.least} onValue={(least) => set({ least })} />
          <Bound label={words.factMost} value={fact.most} onValue={(most) => set({ most })} />
        </>
      )}
      {fact.kind === 'choice' && (
        <Box w="260px">
          <TextField
            label={words.factChoices}
            defaultValue={fact.choices.join(', ')}
            onBlur={(event) =>
              set({
                choices: [
                  ...new Set(
                    event.target.value
                      .split(',')
                      .map((choice) => choice.trim())
                      .filter(Boolean),
                  ),
                ],
              })
            }
          />
        </Box>
      )}
      {fact.kind !== 'person' && fact.kind !== 'party' && (
        <Box w={usualWidth}>
          <FormField label={words.factStandard}>
            {(props) => (
              <FactInput
                id={props.id}
                label={words.factStandard}
                type={fact}
                value={fact.standard}
                onChange={(standard) => set({ standard })}
              />
            )}
          </FormField>
        </Box>
      )}
      <Box pb="16px">
        <Tick checked={fact.needed} onChecked={(needed) => set({ needed })}>
          {words.factNeeded}
        </Tick>
      </Box>
      <Box pb="18px">
        <WordButton
          color="oxblood"
          fontWeight={500}
          onClick={onRemove}
          aria-label={`${words.factRemove}: ${fact.name}`}
        >
          {words.factRemove}
        </WordButton>
      </Box>
    </Flex>
  );
}

function Bound({
  label,
  value,
  onValue,
}: {
  readonly label: string;
  readonly value: number | null;
  readonly onValue: (value: number | null) => void;
}) {
  const shown = value === null ? '' : numberText(value);
  const [typed, setTyped] = useState(shown);
  useEffect(() => setTyped(shown), [shown]);
  return (
    <Box w="96px">
      <TextField
        label={label}
        inputMode="decimal"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => {
          const found = typed.trim() === '' ? null : typedNumber(typed);
          if (typed.trim() !== '' && found === null) setTyped(shown);
          else onValue(found);
        }}
      />
    </Box>
  );
}
