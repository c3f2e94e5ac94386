'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { Route, Stage, Time } from '@/core/route/route';
import { durationText } from '@/core/time/moment';
import { useAssignments } from '../data/organization';
import { useTimes } from '../data/use';
import { verbThird } from '../line/words';
import { useConditionWords } from './conditionWords';
import { useEarliestWords } from './earliestWords';
import type { Planning } from './usePlanning';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** Who gets what when, as a list: part by part, branches beside one another. */
export function PlanOrder({ planning }: { readonly planning: Planning }) {
  return (
    <Box as="ol" listStyleType="none" mt="6px">
      <Part part={planning.route} planning={planning} depth={0} />
    </Box>
  );
}

function Part({
  part,
  planning,
  depth,
}: {
  readonly part: Route;
  readonly planning: Planning;
  readonly depth: number;
}) {
  const { called } = useAssignments();
  const say = useConditionWords(planning.view, planning.route);
  const indent = `${depth * 22}px`;
  if (part.kind === 'series')
    return part.parts.map((inner) => <Part key={inner.id} part={inner} planning={planning} depth={depth} />);
  if (part.kind === 'parallel')
    return part.branches.map((branch, i) => (
      <Box as="li" key={branch.route.id}>
        <Box pl={indent} pt="4px" color="quiet" fontSize="13px">
          {[words.sideBySide(branch.name || words.nthBranch(i + 1)), branch.condition && say(branch.condition)]
            .filter(Boolean)
            .join(', ')}
        </Box>
        <chakra.ol listStyleType="none">
          <Part part={branch.route} planning={planning} depth={depth + 1} />
        </chakra.ol>
      </Box>
    ));
  if (part.kind === 'copies')
    return (
      <Box as="li" pl={indent} py="2px">
        {words.getCopies(part.to.map(({ assignment }) => called(assignment)).join(', ') || '–')}
        {part.hidden && <chakra.span color="quiet"> {words.copiesHiddenShort}</chakra.span>}
      </Box>
    );
  return <StageRow stage={part} planning={planning} indent={indent} />;
}

function StageRow({
  stage,
  planning,
  indent,
}: {
  readonly stage: Stage;
  readonly planning: Planning;
  readonly indent: string;
}) {
  const { called } = useAssignments();
  const times = useTimes();
  const say = useConditionWords(planning.view, planning.route);
  const sayEarliest = useEarliestWords(planning.route);
  const when = (time: Time | null) =>
    time === null ? '' : time.kind === 'after' ? words.dueIn(durationText(time)) : words.dueOn(times.moment(time.at));
  const more = [
    stage.condition && say(stage.condition),
    stage.earliest && sayEarliest(stage.earliest),
    when(stage.due),
  ].filter(Boolean);
  return (
    <Flex as="li" pl={indent} py="2px" gap="8px" flexWrap="wrap">
      <span>
        {stage.seats.map((seat) => called(seat.assignment)).join(stage.order === 'oneByOne' ? ', then ' : ', ') || '–'}{' '}
        {stage.seats.length > 1 ? words.theyDo[stage.verb] : verbThird[stage.verb]}
      </span>
      {more.length > 0 && <chakra.span color="quiet">{more.join(', ')}</chakra.span>}
    </Flex>
  );
}
