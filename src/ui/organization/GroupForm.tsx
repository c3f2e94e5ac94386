'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Group } from '@/server/organization/groups';
import { usePeople } from '../data/people';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { WordButton } from '../parts/buttons';
import { PeoplePicker } from '../parts/PeoplePicker';
import { PersonName } from '../parts/parts';
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
          <Flex key={member} gap="8px" align="center" w="270px">
            <Box flex="1" minW={0}>
              <PersonName id={member} />
            </Box>
            <WordButton
              color="oxblood"
              fontWeight={500}
              aria-label={`${words.remove}: ${nameOf(member)}`}
              onClick={() => setMembers(members.filter((one) => one !== member))}
            >
              {words.remove}
            </WordButton>
          </Flex>
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
