'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { numberOf, schemeFits } from '@/core/record/numbering';
import type { FactType } from '@/core/route/facts';
import { usualReminders } from '@/core/time/reminders';
import type { DocumentType } from '@/server/admin/documentTypes';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { useKeptForm } from '../data/useKept';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, faultBeside, faultIn, TextField, Tick } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { Leaf } from '../parts/parts';
import { ReminderForm } from '../parts/ReminderForm';
import { FactTypes } from './FactTypes';
import { adminWords } from './words';

const words = adminWords.types;

/** Adds a document type, or changes one. What it numbers like is shown as it is typed. */
export function TypeForm({
  type,
  prefix,
  label,
  onDone,
}: {
  readonly type: DocumentType | null;
  /** What numbers here begin with. */
  readonly prefix: string;
  readonly label: string;
  readonly onDone: (() => void) | null;
}) {
  const [input, set, forget] = useKeptForm(`type.${type?.code ?? ''}`, {
    code: type?.code ?? '',
    name: type?.name ?? '',
    scheme: type?.scheme ?? '',
    active: type?.active ?? true,
    marginLine: type?.marginLine ?? false,
    facts: type?.facts ?? ([] as readonly FactType[]),
    details: type?.details ?? ([] as readonly FactType[]),
    custodian: type?.custodian ?? null,
    reminders: type?.reminders ?? null,
  });
  const describe = useTell('types.describe', {
    answered: (_value, given) => {
      forget();
      say(type ? words.changed(given.name) : words.added(given.name));
    },
    after: () => onDone?.(),
  });
  const error = describe.error;
  const fault = (key: string) => faultIn(error, key);
  const changed =
    !type ||
    (['name', 'scheme', 'active', 'marginLine', 'custodian'] as const).some((key) => input[key] !== type[key]) ||
    JSON.stringify([input.facts, input.details, input.reminders]) !==
      JSON.stringify([type.facts, type.details, type.reminders]);
  return (
    <Leaf label={label}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          const { code, ...rest } = input;
          describe.mutate({
            ...rest,
            facts: [...rest.facts],
            details: [...rest.details],
            type: code,
            added: type === null,
          });
        }}
      >
        <Flex gap="16px" flexWrap="wrap" align="flex-start">
          <Box flex="2" minW="200px">
            <TextField
              label={words.name}
              fault={fault('name')}
              required
              minLength={2}
              maxLength={120}
              autoFocus={type === null}
              value={input.name}
              onChange={(event) => set({ name: event.target.value })}
            />
          </Box>
          {type === null && (
            <Box flex="1" minW="120px">
              <TextField
                label={words.codeMore}
                fault={fault('type')}
                required
                pattern="[A-Za-z0-9]{2,6}"
                title={words.codeTitle}
                maxLength={6}
                value={input.code}
                onChange={(event) => {
                  const code = event.target.value.toUpperCase();
                  const own = `${prefix}-${input.code}-000`;
                  set({ code, ...(['', own].includes(input.scheme) ? { scheme: `${prefix}-${code}-000` } : {}) });
                }}
              />
            </Box>
          )}
          <Box flex="1.5" minW="200px">
            <TextField
              label={words.scheme}
              fault={fault('scheme')}
              help={schemeFits(input.scheme) ? words.example(numberOf(input.scheme, 1)) : words.schemeMore}
              required
              maxLength={40}
              value={input.scheme}
              onChange={(event) => set({ scheme: event.target.value })}
            />
          </Box>
        </Flex>
        {type && (
          <Box color="quiet" fontSize="13px">
            {words.schemeKeeps}
          </Box>
        )}
        <Flex gap="28px" flexWrap="wrap" mt="10px">
          <Box flex="2" minW="420px">
            <FactTypes
              label={words.facts}
              help={words.factsMore}
              facts={input.facts}
              onFacts={(facts) => set({ facts })}
            />
            <Box h="14px" />
            <FactTypes
              label={words.details}
              help={words.detailsMore}
              facts={input.details}
              onFacts={(details) => set({ details })}
            />
          </Box>
          <Box flex="1" minW="240px">
            <OnePerson
              label={words.custodian}
              insideOnly
              person={input.custodian}
              onPerson={(who) => set({ custodian: who?.person ?? null })}
            />
            <Box fontSize="13px" color="quiet" mt="12px" mb="4px">
              {words.reminders}
            </Box>
            <ReminderForm plan={input.reminders ?? usualReminders} onPlan={(reminders) => set({ reminders })} />
          </Box>
        </Flex>
        <Fault error={faultBeside(error, ['type', 'name', 'scheme'])} />
        <Flex gap="18px" align="center" flexWrap="wrap" mt="6px">
          {type && !type.usual && (
            <Tick checked={input.active} onChecked={(active) => set({ active })}>
              {words.active}
            </Tick>
          )}
          {!type?.usual && (
            <Tick checked={input.marginLine} onChecked={(marginLine) => set({ marginLine })}>
              {words.marginLine}
            </Tick>
          )}
          <Box flex="1" />
          {onDone && (
            <WordButton
              onClick={() => {
                forget();
                onDone();
              }}
            >
              {words.cancel}
            </WordButton>
          )}
          <DueButton type="submit" busy={describe.isPending} disabled={!changed}>
            {type ? words.save : words.addDo}
          </DueButton>
        </Flex>
      </chakra.form>
    </Leaf>
  );
}
