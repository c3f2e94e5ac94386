'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { type ReactNode, useState } from 'react';
import { say } from '../data/said';
import { useAsk, useMe, useTell, useTimes } from '../data/use';
import { DueButton, SideButton } from '../parts/buttons';
import { Fault, faultBeside, faultIn, TextField } from '../parts/form';
import { PageHead } from '../parts/parts';
import { Absences } from './Absences';
import { Feed } from './Feed';
import { PersonFields, ZoneField } from './PersonForm';
import { Telling } from './Telling';
import { adminWords } from './words';

const words = adminWords.own;

/** One's own page: how one is called, in which zone times are told, the password, and where one is signed in. */
export function OwnPage() {
  const { data } = useMe();
  if (!data) return null;
  const { me, organization } = data;
  return (
    <>
      <PageHead
        above={organization.name}
        title={words.title}
        below={<chakra.span color="quiet">{me.email}</chakra.span>}
      />
      <Box flex="1" minH={0} overflowY="auto" px={{ base: '16px', md: '24px' }} pb="24px">
        <Grid templateColumns={{ base: 'minmax(0, 1fr)', md: 'repeat(2, minmax(0, 460px))' }} gap="12px 56px">
          <Box>
            <Said key={`${me.name} ${me.work} ${me.zone}`} me={me} />
            <Part title={adminWords.away.title}>
              <Absences person={me.id} changes />
            </Part>
          </Box>
          <Box>
            <Part title={adminWords.telling.title}>
              <Telling />
            </Part>
            <Part title={adminWords.feed.title}>
              <Feed />
            </Part>
            <Password />
            <Sessions />
          </Box>
        </Grid>
      </Box>
    </>
  );
}

function Part({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <Box as="section" borderTop="1px solid" borderColor="hairline" pt="12px" pb="18px">
      <chakra.h2 fontSize="15px" mb="10px">
        {title}
      </chakra.h2>
      {children}
    </Box>
  );
}

function Said({ me }: { readonly me: { readonly name: string; readonly work: string; readonly zone: string } }) {
  const [input, setInput] = useState({ name: me.name, work: me.work, email: '', company: '' });
  const [zone, setZone] = useState(me.zone);
  const describe = useTell('session.describe', { answered: () => say(words.described) });
  const changed = input.name !== me.name || input.work !== me.work || zone !== me.zone;
  return (
    <Part title={words.said}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          describe.mutate({ name: input.name, work: input.work, zone });
        }}
      >
        <PersonFields keys={['name', 'work']} input={input} onInput={setInput} error={describe.error} focus={false} />
        <ZoneField label={words.zone} zone={zone} onZone={setZone} fault={faultIn(describe.error, 'zone')} />
        <Box color="quiet" fontSize="13px" mb="10px">
          {words.saidMore}
        </Box>
        <Fault error={faultBeside(describe.error, ['name', 'work', 'zone'])} />
        <Flex justify="flex-end">
          <DueButton type="submit" busy={describe.isPending} disabled={!changed}>
            {words.save}
          </DueButton>
        </Flex>
      </chakra.form>
    </Part>
  );
}

function Password() {
  const [input, setInput] = useState({ before: '', password: '' });
  const change = useTell('session.changePassword', {
    answered: () => {
      setInput({ before: '', password: '' });
      say(words.passwordChanged);
    },
  });
  const field = (key: 'before' | 'password') => (
    <TextField
      label={words[key]}
      fault={faultIn(change.error, key)}
      type="password"
      autoComplete={key === 'before' ? 'current-password' : 'new-password'}
      required
      minLength={key === 'password' ? 12 : undefined}
      maxLength={200}
      value={input[key]}
      onChange={(event) => setInput({ ...input, [key]: event.target.value })}
    />
  );
  return (
    <Part title={words.passwordTitle}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate(input);
        }}
      >
        {field('before')}
        {field('password')}
        <Fault error={faultBeside(change.error, ['before', 'password'])} />
        <Flex justify="flex-end">
          <SideButton type="submit" busy={change.isPending} disabled={input.before === '' || input.password === ''}>
            {words.passwordDo}
          </SideButton>
        </Flex>
      </chakra.form>
    </Part>
  );
}

function Sessions() {
  const times = useTimes();
  const { data: sessions } = useAsk('session.list');
  const end = useTell('session.endOthers', { answered: () => say(words.ended) });
  if (!sessions) return null;
  return (
    <Part title={words.sessions}>
      {sessions.map((session) => (
        <Flex key={`${session.created} ${session.address} ${session.current}`} py="3px" gap="14px">
          <Box flex="1">{words.since(times.moment(session.created))}</Box>
          <Box color="quiet">{session.current ? words.thisOne : words.fromAddress(session.address)}</Box>
        </Flex>
      ))}
      {sessions.length > 1 && (
        <Flex justify="flex-end" mt="10px">
          <SideButton busy={end.isPending} onClick={() => end.mutate({})}>
            {words.endOthers(sessions.length - 1)}
          </SideButton>
        </Flex>
      )}
      <Fault error={end.error} />
    </Part>
  );
}
