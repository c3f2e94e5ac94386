'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { pageRangesText } from '@/core/route/pageRanges';
import { type Assignment, freshSeat, personOf, roleAsked, type Seat, type Stage, stagesOf } from '@/core/route/route';
import { keepsAuthorOut } from '@/core/route/verbs';
import { useAssignments, useMembers } from '../data/organization';
import { usePeople } from '../data/people';
import { verbWords } from '../line/words';
import { WordButton } from '../parts/buttons';
import { Choose } from '../parts/form';
import { PersonName } from '../parts/parts';
import { SeatDetails } from './SeatDetails';
import type { Planning } from './usePlanning';
import { WhoPicker } from './WhoPicker';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** Who is asked in a stage, in their order: people, groups, units, roles, and whom an earlier one names. */
export function StagePeople({ stage, planning }: { readonly stage: Stage; readonly planning: Planning }) {
  const { route, edit, view } = planning;
  const { name } = usePeople();
  const { called } = useAssignments();
  const [opened, setOpened] = useState<string | null>(null);
  // Whoever has just made a stage puts its people together.
  const [fresh] = useState(stage.seats.length === 0);
  const nameOf = (seat: string) => {
    const found = stagesOf(route).flatMap((own) => own.seats.map((each) => ({ each, own })));
    const one = found.find(({ each }) => each.id === seat);
    return one ? called(one.each.assignment) : '';
  };
  const people = stage.seats.flatMap((seat) => personOf(seat.assignment) ?? []);
  const before = stagesOf(route).slice(
    0,
    Math.max(
      0,
      stagesOf(route).findIndex((own) => own.id === stage.id),
    ),
  );
  const namers = [...before, ...(stage.order === 'oneByOne' ? [stage] : [])].flatMap((own) =>
    own.seats.map((seat) => ({
      seat: seat.id,
      name: `${called(seat.assignment)}, ${verbWords[own.verb].toLowerCase()}`,
    })),
  );
  return (
    <Box flex="1.3" minW="300px">
      <Box fontSize="13px" color="quiet" mb="4px">
        {words.people}
      </Box>
      {stage.seats.map((seat, i) => (
        <Box key={seat.id}>
          <Flex align="center" gap="6px" py="3px">
            <Box flex="1" minW={0}>
              <SeatName seat={seat} nameOf={nameOf} planning={planning} />
            </Box>
            <HowMany seat={seat} planning={planning} />
            <Arrow
              label={words.personEarlier(called(seat.assignment, nameOf))}
              disabled={i === 0}
              onClick={() => edit({ do: 'moveSeat', seat: seat.id, to: { stage: stage.id, at: i - 1 } })}
            >
              ↑
            </Arrow>
            <Arrow
              label={words.personLater(called(seat.assignment, nameOf))}
              disabled={i === stage.seats.length - 1}
              onClick={() => edit({ do: 'moveSeat', seat: seat.id, to: { stage: stage.id, at: i + 2 } })}
            >
              ↓
            </Arrow>
            <WordButton
              fontWeight={500}
              aria-expanded={opened === seat.id}
              aria-label={`${words.details}: ${called(seat.assignment, nameOf)}`}
              onClick={() => setOpened(opened === seat.id ? null : seat.id)}
            >
              {words.details}
            </WordButton>
            <WordButton
              color="oxblood"
              disabled={planning.responded(seat.id)}
              fontWeight={500}
              aria-label={`${words.remove}: ${called(seat.assignment, nameOf)}`}
              onClick={() => edit({ do: 'removeSeat', seat: seat.id })}
            >
              {words.remove}
            </WordButton>
          </Flex>
          {opened === seat.id && <SeatDetails seat={seat} planning={planning} />}
        </Box>
      ))}
      <Box data-who>
        <WhoPicker
          focused={fresh}
          label={words.addPerson}
          exclude={[...people, ...(keepsAuthorOut(stage.verb, planning.authorMay) ? [view.author] : [])]}
          why={(person) => (people.includes(person) ? words.inStage(name(person)) : words.isAuthor(name(person)))}
          namers={namers}
          onPick={(assignment) =>
            edit({ do: 'addSeat', stage: stage.id, seat: freshSeat(crypto.randomUUID(), assignment) })
          }
        />
      </Box>
    </Box>
  );
}

/** Whether any one of a group or a unit is asked, or every one; nothing for a seat that asks none. */
function HowMany({ seat, planning }: { readonly seat: Seat; readonly planning: Planning }) {
  const { called } = useAssignments();
  const group = useMembers()(seat.assignment);
  if (!group) return null;
  return (
    <Choose
      w="auto"
      minH="28px"
      fontSize="13px"
      aria-label={words.groupWho(called(seat.assignment))}
      value={group.members}
      onChange={(event) => {
        const members = event.target.value as 'any' | 'every';
        const assignment = { ...seat.assignment, members } as Assignment;
        planning.edit({ do: 'changeSeat', seat: seat.id, with: { assignment } });
      }}
    >
      <option value="any">{words.anyMember}</option>
      <option value="every">{words.everyMember(group.people)}</option>
    </Choose>
  );
}

/** What a seat is called, with who that is today where a role says it. */
function SeatName({
  seat,
  nameOf,
  planning,
}: {
  readonly seat: Seat;
  readonly nameOf: (seat: string) => string;
  readonly planning: Planning;
}) {
  const { called } = useAssignments();
  const membersOf = useMembers();
  const { assignment } = seat;
  const person = planning.heldBy(seat.id) || personOf(assignment);
  const asked = roleAsked(assignment);
  const role = asked === null ? null : planning.personIn(asked);
  if (person !== null) return <PersonName id={person} quiet={times(seat)} />;
  if (role !== null)
    return <PersonName id={role} quiet={[words.byRole(called(assignment)), times(seat)].filter(Boolean).join(', ')} />;
  return (
    <Box truncate>
      {/* Whether any one of a group or every one is asked stands beside it. */}
      {membersOf(assignment)?.name ?? called(assignment, nameOf)}
      <chakra.span color="quiet" ml="5px">
        {asked !== null ? words.nobodyFills : times(seat)}
      </chakra.span>
    </Box>
  );
}

const times = (seat: Seat) =>
  [
    seat.due || seat.closes ? words.ownTimes : '',
    seat.files === 'all' ? '' : words.someFiles(seat.files.length),
    seat.pages.length === 0 ? '' : words.somePages(pageRangesText(seat.pages)),
    seat.facts.length === 0 ? '' : words.someFacts(seat.facts.length),
  ]
    .filter(Boolean)
    .join(', ');

function Arrow({
  label,
  disabled,
  onClick,
  children,
}: {
  readonly label: string;
  readonly disabled: boolean;
  readonly onClick: () => void;
  readonly children: string;
}) {
  return (
    <chakra.button
      type="button"
      aria-label={label}
      disabled={disabled}
      onClick={onClick}
      minW="24px"
      minH="28px"
      color="quiet"
      cursor="pointer"
      borderRadius="4px"
      _hover={{ color: 'ink', bg: 'pineSoft' }}
      _disabled={{ opacity: 0.3, cursor: 'not-allowed' }}
    >
      {children}
    </chakra.button>
  );
}
