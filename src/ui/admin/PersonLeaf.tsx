'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Role } from '@/core/access/may';
import type { Person } from '@/server/admin/people';
import { useRouter } from '../data/ahead';
import { useOrganization } from '../data/organization';
import { say } from '../data/said';
import { useMe, useTell, useTimes } from '../data/use';
import { useKeptForm } from '../data/useKept';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault, faultBeside, TextField } from '../parts/form';
import { Leaf } from '../parts/parts';
import { Absences } from './Absences';
import { PersonFields, type PersonWords, RoleTicks } from './PersonForm';
import { PersonPlace } from './PersonPlace';
import { adminWords } from './words';

const words = adminWords.people;

/** A person opened: what is known of them, and what an administrator can do about it. */
export function PersonLeaf({
  person,
  administers,
  self,
}: {
  readonly person: Person;
  readonly administers: boolean;
  readonly self: boolean;
}) {
  const router = useRouter();
  const times = useTimes();
  const [editing, setEditing] = useState(false);
  const [address, setAddress] = useState<string | null>(null);
  const again = useTell('people.inviteAgain');
  const leave = useTell('people.leave');
  const copy = useTell('people.copyAccess', {
    answered: async ({ address, until }) => {
      // A browser that gives no access to the clipboard shows what is to be copied.
      const copied = await navigator.clipboard.writeText(address).then(
        () => true,
        () => false,
      );
      if (copied) say(words.copied(times.moment(until)));
      else setAddress(address);
    },
  });
  const { data: me } = useMe();
  const { units, absences } = useOrganization();
  const isAwaySoon = absences.some((absence) => absence.person === person.id);
  const unit = units.find(({ id }) => id === person.unit);
  const leads = unit !== undefined && [unit.lead, unit.deputy].includes(me?.me.id ?? '');
  if (editing) return <EditPerson person={person} self={self} onDone={() => setEditing(false)} />;
  const invited = person.state === 'invited';
  return (
    <Leaf label={person.name}>
      <Flex gap="16px" align="center" flexWrap="wrap">
        <Box flex="1" minW="220px">
          <Box>{[person.work, person.company].filter(Boolean).join(', ')}</Box>
          <Box color="quiet">
            {person.email} · {person.zone}
          </Box>
          {person.unreached && <Box color="copperText">{words.unreachedMore}</Box>}
        </Box>
        {administers && <SideButton onClick={() => setEditing(true)}>{words.edit}</SideButton>}
        {administers && !self && person.kind === 'member' && (
          <>
            {invited && (
              <SideButton busy={again.isPending} onClick={() => again.mutate({ person: person.id })}>
                {again.isSuccess ? words.sent : words.again}
              </SideButton>
            )}
            {(invited || (person.state === 'active' && me?.mailQueued !== null)) && (
              <SideButton busy={copy.isPending} onClick={() => copy.mutate({ person: person.id })}>
                {invited ? words.copy : words.copyPassword}
              </SideButton>
            )}
            {person.state === 'left' && (
              <SideButton onClick={() => leave.mutate({ person: person.id, left: false })}>{words.back}</SideButton>
            )}
          </>
        )}
        <SideButton onClick={() => router.push(`/people/${person.id}`)}>{words.open}</SideButton>
      </Flex>
      {address && (
        <Box mt="10px">
          <TextField
            label={words.notCopied}
            readOnly
            value={address}
            onFocus={(event) => event.currentTarget.select()}
          />
        </Box>
      )}
      {copy.isSuccess && <Box mt="8px">{words.copiedMore(person.name)}</Box>}
      {(administers || leads) && person.kind === 'member' && <PersonPlace person={person} administers={administers} />}
      {person.kind === 'member' && person.state !== 'left' && (administers || isAwaySoon) && (
        <Box mt="10px" pt="8px" borderTop="1px solid" borderColor="hairline">
          <Absences person={person.id} changes={administers || self} />
        </Box>
      )}
      <Fault error={again.error ?? leave.error ?? copy.error} />
    </Leaf>
  );
}

/** Mends what is known of a person. Their email address stays: links and sign-in go by it. */
function EditPerson({
  person,
  self,
  onDone,
}: {
  readonly person: Person;
  readonly self: boolean;
  readonly onDone: () => void;
}) {
  const { name, email, work, company, roles: given } = person;
  const [{ roles, ...input }, change, forget] = useKeptForm<PersonWords & { roles: readonly Role[] }>(
    `person.${person.id}`,
    { name, email, work, company, roles: given },
  );
  const describe = useTell('people.describe', {
    answered: (_value, sent) => {
      forget();
      say(words.saved(sent.name));
    },
    after: onDone,
  });
  const member = person.kind === 'member';
  return (
    <Leaf label={words.editTitle(person.name)}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          const { email: _, ...rest } = input;
          describe.mutate({ person: person.id, ...rest, roles });
        }}
      >
        <PersonFields
          keys={member ? ['name', 'work'] : ['name', 'work', 'company']}
          input={input}
          onInput={change}
          error={describe.error}
        />
        <Box color="quiet" fontSize="13px" mb="8px">
          {words.editMore}
        </Box>
        <Flex gap="20px" flexWrap="wrap" align="center">
          {member && <RoleTicks roles={roles} onRoles={(next) => change({ roles: next })} fixed={self} />}
          <Box flex="1" />
          <WordButton
            onClick={() => {
              forget();
              onDone();
            }}
          >
            {words.cancel}
          </WordButton>
          <DueButton type="submit" busy={describe.isPending}>
            {words.save}
          </DueButton>
        </Flex>
        <Fault error={faultBeside(describe.error, ['name', 'work', 'company'])} />
      </chakra.form>
    </Leaf>
  );
}
