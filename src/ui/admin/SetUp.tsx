'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { DueButton } from '../parts/buttons';
import { Fault, faultBeside, faultIn, TextField } from '../parts/form';
import { useEntrance } from './entrance';
import { ZoneField } from './PersonForm';
import { adminWords } from './words';

/** The first set-up of an installation, with the code that its console printed. */
export function SetUp() {
  const words = adminWords.setUp;
  const setUp = useEntrance('auth.setUp', '/desk');
  const [input, setInput] = useState({
    code: '',
    organization: '',
    prefix: '',
    zone: '',
    name: '',
    email: '',
    password: '',
  });
  useEffect(
    () => setInput((before) => ({ ...before, zone: before.zone || Intl.DateTimeFormat().resolvedOptions().timeZone })),
    [],
  );
  const set = (key: keyof typeof input, value: string) => setInput((before) => ({ ...before, [key]: value }));
  const field = (key: keyof typeof input, more: object = {}) => (
    <TextField
      label={words[key]}
      required
      maxLength={key === 'email' ? 254 : 120}
      value={input[key]}
      onChange={(event) => set(key, event.target.value)}
      {...more}
    />
  );
  return (
    <chakra.form
      w="100%"
      maxW="460px"
      onSubmit={(event) => {
        event.preventDefault();
        setUp.mutate(input);
      }}
    >
      <chakra.h1 fontSize="19px">{words.title}</chakra.h1>
      <Box color="quiet" mb="16px">
        {words.more}
      </Box>
      {field('code', { autoComplete: 'off', autoFocus: true })}
      {field('organization')}
      {field('prefix', { maxLength: 5 })}
      <ZoneField
        label={words.zone}
        zone={input.zone}
        onZone={(zone) => set('zone', zone)}
        fault={faultIn(setUp.error, 'zone')}
      />
      {field('name', { autoComplete: 'name' })}
      {field('email', { type: 'email', autoComplete: 'username' })}
      {field('password', { type: 'password', autoComplete: 'new-password', minLength: 12, maxLength: 200 })}
      <Fault error={faultBeside(setUp.error, ['zone'])} />
      <Flex justify="flex-end">
        <DueButton type="submit" busy={setUp.isPending}>
          {words.do}
        </DueButton>
      </Flex>
    </chakra.form>
  );
}
