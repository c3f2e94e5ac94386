'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { type ReactNode, useState } from 'react';
import type { Refusal } from '../data/client';
import { DueButton, GraveButton, WordButton } from '../parts/buttons';
import { Fault, faultBeside, faultIn, TextField } from '../parts/form';
import { Leaf } from '../parts/parts';
import { organizationWords as words } from './words';

/** The form of one unit, group, role or calendar: its name, what it is made of, saving, and removing apart. */
export function PartForm({
  label,
  name,
  onName,
  editable,
  changed,
  busy,
  error,
  children,
  onSave,
  onRemove,
  onDone,
}: {
  readonly label: string;
  readonly name: string;
  readonly onName: (name: string) => void;
  readonly editable: boolean;
  readonly changed: boolean;
  readonly busy: boolean;
  readonly error: Refusal | null;
  readonly children: ReactNode;
  readonly onSave: () => void;
  readonly onRemove: (() => void) | null;
  readonly onDone: (() => void) | null;
}) {
  const [sure, setSure] = useState(false);
  return (
    <Leaf label={label}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          onSave();
        }}
      >
        <chakra.fieldset disabled={!editable} border="0" p="0" m="0" minW="0">
          <Box maxW="420px">
            <TextField
              label={words.name}
              fault={faultIn(error, 'name')}
              required
              minLength={2}
              maxLength={120}
              autoFocus={onDone !== null}
              value={name}
              onChange={(event) => onName(event.target.value)}
            />
          </Box>
          {children}
        </chakra.fieldset>
        <Fault error={faultBeside(error, ['name'])} />
        {editable && (
          <Flex gap="14px" align="center" mt="12px" flexWrap="wrap">
            {onRemove &&
              (sure ? (
                <GraveButton onClick={onRemove}>{words.removeSure}</GraveButton>
              ) : (
                <GraveButton onClick={() => setSure(true)}>{words.removeDo(name)}</GraveButton>
              ))}
            <Box flex="1" />
            {onDone && <WordButton onClick={onDone}>{words.cancel}</WordButton>}
            <DueButton type="submit" busy={busy} disabled={!changed || name.trim().length < 2}>
              {words.save}
            </DueButton>
          </Flex>
        )}
      </chakra.form>
    </Leaf>
  );
}
