'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Group } from '@/server/organization/groups';
import { usePeople } from '../data/people';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { PeoplePicker } from '../parts/PeoplePicker';
import { Member } from './Member';
import { PartForm } from './PartForm';
import { organizationWords as words } from './words';

/** A group and its members, put together by typing one name after another. */
export function GroupForm({
  group,
  editable,
  onDone,
}: {
  readonly group: Group | null;
  readonly editable: boolean;
  readonly onDone: (() => void) | null;
}) {
  const { name: nameOf } = usePeople();
  const [id] = useState(() => group?.id ?? crypto.randomUUID());
  const [name, setName] = useState(group?.name ?? '');
  const [members, setMembers] = useState<readonly string[]>(group?.members ?? []);
  const save = useTell('groups.save', { answered: () => say(words.saved(name)), after: () => onDone?.() });
  const remove = useTell('groups.remove', { answered: () => say(words.removed(name)) });
  return (
    <PartForm
      label={group?.name ?? words.add.groups}
      name={name}
      onName={setName}
      editable={editable}
      changed={!group || name !== group.name || members.join() !== group.members.join()}
      busy={save.isPending}
      error={save.error ?? remove.error}
      onSave={() => save.mutate({ id, name, members: [...members] })}
      onRemove={group ? () => remove.mutate({ id }) : null}
      onDone={onDone}
    >
      <Box fontSize="13px" color="quiet" mb="4px">
        {words.members}
      </Box>
      <Flex columnGap="24px" rowGap="2px" flexWrap="wrap" mb="8px">
        {members.map((member) => (
          <Member key={member} person={member} onRemove={() => setMembers(members.filter((one) => one !== member))} />
        ))}
      </Flex>
      <Box maxW="420px">
        <PeoplePicker
          label={words.memberAdd}
          insideOnly
          exclude={members}
          why={(person) => words.isMember(nameOf(person))}
          onPick={({ person }) => setMembers([...members, person])}
        />
      </Box>
    </PartForm>
  );
}
