'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { Role } from '@/core/access/may';
import type { OutputOf } from '../data/client';
import { useTell } from '../data/use';
import { useKeptForm } from '../data/useKept';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, faultBeside } from '../parts/form';
import { Leaf } from '../parts/parts';
import { PersonFields, RoleTicks } from './PersonForm';
import { adminWords } from './words';

const words = adminWords.people;

const nobody = { name: '', email: '', work: '', company: '', roles: [] as readonly Role[] };

/** A member who is added and invited; what was typed is kept until they are. */
export function AddPerson({ me, onDone }: { readonly me: OutputOf<'session.me'>; readonly onDone: () => void }) {
  const [input, change, forget] = useKeptForm('addPerson', nobody);
  const add = useTell('people.add', {
    answered: forget,
    after: onDone,
  });
  const { zone } = me.organization;
  return (
    <Leaf label={words.add}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          const { name, email, work, roles } = input;
          add.mutate({ name, email, work, zone, roles });
        }}
      >
        <PersonFields keys={['name', 'email', 'work']} input={input} onInput={change} error={add.error} />
        <Flex gap="20px" flexWrap="wrap" align="center">
          <RoleTicks roles={input.roles} onRoles={(roles) => change({ roles })} />
          <Box flex="1" />
          <WordButton
            onClick={() => {
              forget();
              onDone();
            }}
          >
            {words.cancel}
          </WordButton>
          <DueButton type="submit" busy={add.isPending}>
            {words.addDo}
          </DueButton>
        </Flex>
        <Fault error={faultBeside(add.error, ['name', 'email', 'work'])} />
      </chakra.form>
    </Leaf>
  );
}
