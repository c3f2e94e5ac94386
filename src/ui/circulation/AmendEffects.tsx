'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { Preview } from '@/core/circulation/plan/preview';
import { useOrganization } from '../data/organization';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { doWords } from '../desk/words';
import { verbWords } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { Leaf, PersonName } from '../parts/parts';
import { useSeatNames } from './SeatPerson';
import { useAct } from './useAct';
import type { Amending } from './useAmending';
import { useDifferenceWords } from './useDifferenceWords';
import { circulationWords } from './words';

const words = circulationWords.amend;

/** What an amendment would change for whom, who is told what; it is made, or the circulation is left as it is. */
export function AmendEffects({ amending, onDone }: { readonly amending: Amending; readonly onDone: () => void }) {
  const { shown, changed, input } = amending;
  const make = useAct('circulation.amend', words.made, {
    answered: () => amending.forget(),
    after: onDone,
  });
  const preview = shown?.ok ? shown.preview : null;
  const told = preview ? new Set(preview.messages.map(({ person }) => person)).size : 0;
  return (
    <Leaf label={words.effects} tone={shown && !shown.ok ? 'oxblood' : 'pine'}>
      {!changed && <Box color="quiet">{words.nothing}</Box>}
      {changed && !shown && !amending.moved && <Box color="quiet">{words.looking}</Box>}
      {shown && !shown.ok && <Refused amending={amending} refusal={shown.refusal} />}
      {preview && <Effects preview={preview} amending={amending} />}
      <Fault error={amending.error} />
      {preview?.messages.some(({ template }) => template === 'amended' || template === 'seatMoved') && (
        <Box mt="10px">
          <WordsField label={words.reason} text={amending.reason} onText={amending.setReason} />
        </Box>
      )}
      <Fault error={make.error} />
      <Flex gap="14px" justify="flex-end" align="center" mt="10px">
        <WordButton
          onClick={() => {
            amending.forget();
            onDone();
          }}
        >
          {changed ? words.giveUp : words.close}
        </WordButton>
        <DueButton busy={make.isPending} disabled={!preview} onClick={() => make.mutate(input)}>
          {preview ? words.make(told) : words.makeIt}
        </DueButton>
      </Flex>
    </Leaf>
  );
}

/** What cannot be amended, and where. */
function Refused({
  amending,
  refusal,
}: {
  readonly amending: Amending;
  readonly refusal: { readonly sentence: string; readonly facts: Readonly<Record<string, unknown>> };
}) {
  const { planning, view } = amending;
  const seatName = useSeatNames(view);
  const part = String(refusal.facts.part ?? refusal.facts.stage ?? '');
  const seat = view.seats.find(({ id }) => id === (refusal.facts.seat ?? part));
  const stage =
    planning.stages.find(({ id }) => id === part) ?? view.stages.find(({ id }) => id === (seat?.stage ?? part));
  const where = [stage && verbWords[stage.verb], seat && seatName(seat)].filter(Boolean).join(': ');
  return (
    <Box role="alert">
      {where && <b>{where}. </b>}
      {refusal.sentence}
    </Box>
  );
}

function Effects({ preview, amending }: { readonly preview: Preview; readonly amending: Amending }) {
  const { name } = usePeople();
  const { groups } = useOrganization();
  const times = useTimes();
  const say = useDifferenceWords();
  const seatName = useSeatNames(amending.view);
  const { view, planning } = amending;
  const who = (person: string) => groups.find(({ id }) => `group:${id}` === person)?.name ?? name(person);
  const seatCalled = (id: string) => {
    const seat = view.seats.find((one) => one.id === id);
    return seat ? seatName(seat) : '';
  };
  const lines = [
    ...preview.differences.map(say),
    ...(preview.noteChanged ? [words.noteChanged] : []),
    ...(preview.whole ? [words.wholeChanged] : []),
    ...(preview.files === null ? [] : [words.filesChanged(preview.files)]),
  ];
  const ends = preview.ends.map((id) => planning.stages.find((stage) => stage.id === id)).filter((stage) => stage);
  return (
    <Flex gap="28px" flexWrap="wrap" align="flex-start">
      <Box flex="1" minW="260px">
        <Box fontWeight={600}>{words.what}</Box>
        {lines.map((line) => (
          <Box key={line}>{line.charAt(0).toUpperCase() + line.slice(1)}</Box>
        ))}
        {ends.map((stage) => stage && <Box key={stage.id}>{words.ends(verbWords[stage.verb])}</Box>)}
        {preview.phase === 'finishing' && <Box>{words.endsAll}</Box>}
        {preview.phase === 'rework' && view.phase === 'running' && <Box>{words.endsRework}</Box>}
      </Box>
      <Box flex="1" minW="260px">
        <Box fontWeight={600}>{words.whom}</Box>
        {preview.added.length + preview.removed.length + preview.times.length + preview.rights.length === 0 && (
          <Box color="quiet">{words.nobody}</Box>
        )}
        {preview.added.map((task) => (
          <Box key={`+${task.person} ${task.doing} ${task.seat}`}>
            {words.gets(who(task.person), doWords[task.doing])}
          </Box>
        ))}
        {preview.removed.map((task) => (
          <Box key={`-${task.person} ${task.doing} ${task.seat}`}>
            {words.loses(who(task.person), doWords[task.doing])}
          </Box>
        ))}
        {preview.times.map(({ seat, due, closes }) => (
          <Box key={`t${seat}`}>
            {words.retimed(
              seatCalled(seat),
              due === null ? null : times.moment(due),
              closes === null ? null : times.moment(closes),
            )}
          </Box>
        ))}
        {preview.rights.map(({ person }) => (
          <Box key={`r${person}`}>{words.rights(name(person))}</Box>
        ))}
      </Box>
      <Box flex="1" minW="220px">
        <Box fontWeight={600}>{words.messages}</Box>
        {preview.messages.length === 0 && <Box color="quiet">{words.noMessages}</Box>}
        {preview.messages.map(({ person, template, seat }) => (
          <PersonName
            key={`${person} ${template} ${seat ?? ''}`}
            id={person}
            quiet={words.told[template as keyof typeof words.told] ?? words.toldOther}
          />
        ))}
      </Box>
    </Flex>
  );
}
