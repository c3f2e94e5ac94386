'use client';

import { chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { SideButton } from '../parts/buttons';
import { TextField } from '../parts/form';
import type { Outsider } from './useHolderActs';
import { signingWords as words } from './words';

/** Somebody outside by name and email address, as others outside give them. */
export function OutsiderForm({
  label,
  does,
  busy,
  onWho,
}: {
  readonly label: string;
  /** What the button does with them. */
  readonly does: string;
  readonly busy: boolean;
  readonly onWho: (who: Outsider) => void;
}) {
  const [who, setWho] = useState<Outsider>({ name: '', email: '' });
  return (
    <chakra.form
      aria-label={label}
      onSubmit={(event) => {
        event.preventDefault();
        onWho({ name: who.name.trim(), email: who.email.trim() });
      }}
    >
      <Flex gap="10px" flexWrap="wrap" align="flex-end">
        {(['name', 'email'] as const).map((part) => (
          <TextField
            key={part}
            label={words.outsider[part]}
            required
            type={part === 'email' ? 'email' : 'text'}
            minLength={2}
            maxLength={part === 'email' ? 254 : 120}
            autoComplete="off"
            value={who[part]}
            onChange={(event) => setWho({ ...who, [part]: event.target.value })}
          />
        ))}
        <SideButton type="submit" mb="14px" minH="36px" busy={busy}>
          {does}
        </SideButton>
      </Flex>
    </chakra.form>
  );
}
