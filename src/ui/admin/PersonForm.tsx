'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useId } from 'react';
import type { Role } from '@/core/access/may';
import type { Refusal } from '../data/client';
import { FormField, faultIn, TextField, TextInput, Tick } from '../parts/form';
import { adminWords } from './words';

const words = adminWords.people;

/** What can be typed of a person. */
export interface PersonWords {
  readonly name: string;
  readonly email: string;
  readonly work: string;
  readonly company: string;
}

/** The fields of a person side by side; the one that a refusal is about says so itself. */
export function PersonFields({
  keys,
  input,
  onInput,
  error,
  focus = true,
}: {
  readonly keys: readonly (keyof PersonWords)[];
  readonly input: PersonWords;
  readonly onInput: (input: PersonWords) => void;
  readonly error: Refusal | null;
  /** Whether the first field is gone to, as in a form that was just opened. */
  readonly focus?: boolean;
}) {
  return (
    <Flex gap="16px" flexWrap="wrap">
      {keys.map((key, i) => (
        <Box key={key} flex="1" minW="200px">
          <TextField
            label={words[key]}
            fault={faultIn(error, key)}
            type={key === 'email' ? 'email' : 'text'}
            required={key === 'name' || key === 'email'}
            minLength={key === 'name' ? 2 : undefined}
            maxLength={key === 'email' ? 254 : 120}
            autoFocus={focus && i === 0}
            value={input[key]}
            onChange={(event) => onInput({ ...input, [key]: event.target.value })}
          />
        </Box>
      ))}
    </Flex>
  );
}

export function RoleTicks({
  roles,
  onRoles,
  fixed = false,
}: {
  readonly roles: readonly Role[];
  readonly onRoles: (roles: readonly Role[]) => void;
  /** Nobody takes their own right to administer. */
  readonly fixed?: boolean;
}) {
  return (
    <>
      {(['controller', 'administrator'] as const).map((role) => (
        <Tick
          key={role}
          checked={roles.includes(role)}
          disabled={fixed && role === 'administrator'}
          onChecked={(given) => onRoles(given ? [...roles, role] : roles.filter((other) => other !== role))}
        >
          {words[role]}
        </Tick>
      ))}
    </>
  );
}

/** A time zone typed or picked from those that this browser knows. */
export function ZoneField({
  label,
  zone,
  onZone,
  fault,
}: {
  readonly label: string;
  readonly zone: string;
  readonly onZone: (zone: string) => void;
  readonly fault: string | null;
}) {
  const list = useId();
  return (
    <FormField label={label} fault={fault}>
      {(props) => (
        <>
          <TextInput
            {...props}
            required
            maxLength={60}
            list={list}
            value={zone}
            onChange={(event) => onZone(event.target.value)}
          />
          <datalist id={list}>
            {Intl.supportedValuesOf('timeZone').map((known) => (
              <option key={known} value={known} />
            ))}
          </datalist>
        </>
      )}
    </FormField>
  );
}
