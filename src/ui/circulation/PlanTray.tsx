'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { workday } from '@/core/forecast/ticks';
import type { Saving } from '@/core/forecast/variants';
import type { Finding, Mending } from '@/core/route/preflight';
import { copiesOf, groupAsked, type Stage } from '@/core/route/route';
import { unreachable } from '@/core/unreachable';
import { useRouter } from '../data/ahead';
import { useAssignments, useOrganization } from '../data/organization';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { verbWords } from '../line/words';
import { WordButton } from '../parts/buttons';
import { Fact, Tray } from '../parts/parts';
import { branchIn } from './BranchLeaf';
import { forecastWords } from './forecastWords';
import { PlanOrder } from './PlanOrder';
import { useForesight } from './useForesight';
import type { Planning } from './usePlanning';
import { circulationWords, findingWords } from './words';

const words = circulationWords.plan;

/** The tray under a plan: what the checks found with what mends it, and who gets what when. */
export function PlanTray({ planning }: { readonly planning: Planning }) {
  const { findings, stops, first } = planning;
  const { called } = useAssignments();
  const [open, setOpen] = useState(true);
  const [order, setOrder] = useState(false);
  const foresight = useForesight(planning);
  const times = useTimes();
  const names = first.slice(0, 4).map(({ seat }) => called(seat.assignment).split(' ')[0]);
  return (
    <Tray
      label={words.checks}
      low={!order}
      open={open && (findings.length > 0 || order)}
      onToggle={() => {
        // With nothing found the tray still has the order to show.
        if (findings.length === 0) setOrder(!(open && order));
        setOpen(!(open && (findings.length > 0 || order)));
      }}
      facts={
        <>
          <Fact name={words.checks}>
            {findings.length === 0 ? words.fine : words.found(stops.length, findings.length - stops.length)}
          </Fact>
          {foresight && (
            <Fact name={forecastWords.title}>
              {foresight.forecast.unreliable
                ? forecastWords.unreliable[foresight.forecast.unreliable as 'wide']
                : forecastWords.plan.by(times.day(foresight.forecast.dates[1]))}
            </Fact>
          )}
          {foresight?.saving && <Fact name={forecastWords.plan.change}>{savingWords(foresight.saving)}</Fact>}
          <Fact name={words.first}>
            {names.join(', ') || '–'}
            {first.length > names.length ? words.andMore(first.length - names.length) : ''}
          </Fact>
        </>
      }
    >
      {findings.slice(0, 40).map((finding) => (
        <FindingRow
          key={`${finding.code} ${finding.stage} ${finding.seat} ${finding.about}`}
          finding={finding}
          planning={planning}
        />
      ))}
      <Box>
        <WordButton aria-expanded={order} onClick={() => setOrder(!order)}>
          {words.when}
        </WordButton>
        {order && <PlanOrder planning={planning} />}
      </Box>
    </Tray>
  );
}

/** What the last change of a plan saves or costs, in half working days. */
function savingWords({ median, low, high, gains, loses }: Saving): string {
  const { same, saves, costs } = forecastWords.plan;
  const halves = (quarterHours: number) => Math.round(quarterHours / (workday / 2)) / 2;
  const gained = gains >= loses;
  if (Math.max(gains, loses) < 5) return same;
  const [less, more] = gained ? [low, high] : [-high, -low];
  return (gained ? saves : costs)(
    halves(gained ? median : -median),
    Math.max(0, halves(less)),
    halves(more),
    gained ? gains : loses,
  );
}

function FindingRow({ finding, planning }: { readonly finding: Finding; readonly planning: Planning }) {
  const { stages, view, route } = planning;
  const { called } = useAssignments();
  const { name } = usePeople();
  const { absences } = useOrganization();
  const times = useTimes();
  const router = useRouter();
  const { code, severity, about } = finding;
  const stage = stages.find((candidate) => candidate.id === finding.stage);
  const seat = stage?.seats.find((candidate) => candidate.id === finding.seat);
  const branch = about === null ? null : branchIn(route, about);
  const fact = view.factTypes.find((type) => type.id === about);
  const board = copiesOf(route).find((one) => one.id === about);
  const file = view.versions[view.versions.length - 1]?.files.find((one) => one.id === about);
  const who = [
    stage ? `${verbWords[stage.verb]}:` : branch ? `${branch.branch.name || words.aBranch}:` : '',
    fact ? `${fact.name}:` : '',
    file ? `${file.name}:` : '',
    seat ? called(seat.assignment) : '',
    code === 'alike' && about ? words.and(name(about)) : '',
  ]
    .filter(Boolean)
    .join(' ');
  const absence = code === 'away' ? absences.find((one) => one.id === about) : undefined;
  const said = absence ? words.isAway(times.moment(absence.from), times.moment(absence.to)) : findingWords[code];
  // "Amount has no value yet." and "Sign: Lotte Kessel has no field yet.", but "Review: The condition asks …".
  const subject = /^\p{Ll}/u.test(said) ? who.replace(/:$/, '') : who;
  const mending = planning.editable ? planning.mending(finding) : null;
  const place = stage?.id ?? branch?.branch.route.id ?? board?.id ?? null;
  return (
    <Flex gap="14px" py="3px" align="baseline">
      <Box w="84px" color={severity === 'stops' ? 'oxblood' : 'copperText'} fontWeight={600} flex="none">
        {severity === 'stops' ? words.stops : words.warns}
      </Box>
      <Box flex="1">
        {subject} {said}
      </Box>
      {mending && (
        <WordButton onClick={() => planning.mend(mending)}>{mendingWords(mending, stages, called)}</WordButton>
      )}
      {code === 'field-missing' && view.newest !== null ? (
        <WordButton onClick={() => router.push(`/circulations/${view.id}/fields`)}>{words.putFields}</WordButton>
      ) : fact ? (
        <WordButton onClick={() => document.querySelector<HTMLElement>(`#fact-${fact.id} :is(input, select)`)?.focus()}>
          {words.giveFact(fact.name)}
        </WordButton>
      ) : (
        place && <WordButton onClick={() => planning.select(place)}>{words.open}</WordButton>
      )}
    </Flex>
  );
}

/** What a mending does, in a button. */
function mendingWords(
  mending: Mending,
  stages: readonly Stage[],
  called: ReturnType<typeof useAssignments>['called'],
): string {
  if (mending.kind === 'whole') return words.mend.whole;
  if (mending.kind === 'fields') return words.mend.fields;
  const last = mending.edits[mending.edits.length - 1];
  const seat = (id: string) => {
    const found = stages.flatMap((stage) => stage.seats).find((one) => one.id === id);
    return found ? called(found.assignment) : '';
  };
  switch (last?.do) {
    case 'removeSeat':
      return words.mend.removeSeat(mending.edits.map((edit) => (edit.do === 'removeSeat' ? seat(edit.seat) : '')));
    case 'remove': {
      const stage = stages.find((one) => one.id === last.part);
      return stage ? words.mend.removeStage(verbWords[stage.verb]) : words.mend.removePart;
    }
    case 'changeParallel':
      return words.mend.joinAll;
    case 'changeBranch':
      return words.mend.noCondition;
    case 'changeCopies':
      return words.mend.copies;
    case 'changeSeat':
      return 'assignment' in last.with && last.with.assignment
        ? groupAsked(last.with.assignment)
          ? words.mend.anyMember
          : words.mend.instead(called(last.with.assignment))
        : 'files' in last.with
          ? words.mend.allFiles
          : words.mend.times;
    case 'change':
      if ('rule' in last.with) return words.mend.everyone;
      if ('condition' in last.with) return words.mend.noCondition;
      if ('earliest' in last.with) return words.mend.noEarliest;
      return words.mend.times;
    case undefined:
    case 'add':
    case 'move':
    case 'moveBranch':
    case 'split':
    case 'addBranch':
    case 'addSeat':
    case 'moveSeat':
      return words.mend.other;
    default:
      return unreachable(last, 'edit');
  }
}
