'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { StageChange } from '@/core/route/edit';
import { type Allows, availabilities, independentStages, type Stage, stagesOf } from '@/core/route/route';
import type { Rule } from '@/core/route/tally';
import { verbFacts, verbs } from '@/core/route/verbs';
import { verbWords } from '../line/words';
import { WordButton } from '../parts/buttons';
import { ChoiceField, TextField, Tick, WordedChoice } from '../parts/form';
import type { Planning } from './usePlanning';
import { allowsInWords, circulationWords } from './words';

const words = circulationWords.plan;

/** What a stage asks, in which order, when it is complete, and what a return does. */
export function StageRules({
  stage,
  set,
  started,
}: {
  readonly stage: Stage;
  readonly set: (part: StageChange) => void;
  /** Whether it has started: then only how many are needed can change. */
  readonly started: boolean;
}) {
  const rule = (
    <RuleField
      label={words.rule}
      rule={stage.rule}
      n={stage.seats.length}
      words={[words.all, words.any, words.atLeast]}
      onRule={(next) => set({ rule: next })}
    />
  );
  if (started)
    return (
      <Box flex="0.8" minW="170px">
        {rule}
      </Box>
    );
  return (
    <>
      <Box flex="0.8" minW="170px">
        <WordedChoice
          label={words.verb}
          of={verbs}
          words={verbWords}
          value={stage.verb}
          onValue={(verb) => set({ verb })}
        />
        {rule}
      </Box>
      <Box flex="0.8" minW="170px">
        <WordedChoice
          label={words.order}
          of={['together', 'oneByOne']}
          words={words}
          value={stage.order}
          onValue={(order) => set({ order })}
        />
        <WordedChoice
          label={words.onReturn}
          of={['atOnce', 'gather']}
          words={words}
          value={stage.onReturn}
          onValue={(onReturn) => set({ onReturn })}
        />
      </Box>
    </>
  );
}

/** What a decline does and what else the stage allows, in a line; it opens to be changed. */
export function StageAllows({
  stage,
  planning,
  started,
}: {
  readonly stage: Stage;
  readonly planning: Planning;
  readonly started: boolean;
}) {
  const { route, edit } = planning;
  const stages = stagesOf(route);
  const apart = independentStages(route).get(stage.id) ?? [];
  const set = (part: StageChange) => edit({ do: 'change', stage: stage.id, with: part });
  const said =
    apart.length > 0 ? ` · ${words.apartFrom(stages.flatMap(({ id }, at) => (apart.includes(id) ? [at] : [])))}` : '';
  const [more, setMore] = useState(false);
  return (
    <Box fontSize="13px" color="quiet">
      {words.declines[stage.onDecline]} · {allowsInWords(stage)}
      {said}{' '}
      <WordButton fontSize="13px" aria-expanded={more} onClick={() => setMore(!more)}>
        {words.change}
      </WordButton>
      {more && (
        <Box fontSize="14px" color="ink">
          <Flex gap="14px" mt="8px" flexWrap="wrap">
            <Box w="220px" hidden={started}>
              <WordedChoice
                label={words.onDecline}
                of={['stop', 'count']}
                words={words}
                value={stage.onDecline}
                onValue={(onDecline) => set({ onDecline })}
              />
            </Box>
            <AllowsFields stage={stage} set={(allows) => set({ allows })} />
            {!started && stages.length > 1 && <StagesApart stage={stage} planning={planning} />}
          </Flex>
        </Box>
      )}
    </Box>
  );
}

/** In which other stages nobody responds who responds in this one. */
function StagesApart({ stage, planning }: { readonly stage: Stage; readonly planning: Planning }) {
  const { route, edit } = planning;
  const apart = independentStages(route).get(stage.id) ?? [];
  // Whichever of the two asks for it, it is taken back from.
  const put = (other: Stage, on: boolean) => {
    if (on) edit({ do: 'change', stage: stage.id, with: { independentOf: [...stage.independentOf, other.id] } });
    else
      for (const [one, of] of [
        [stage, other.id],
        [other, stage.id],
      ] as const)
        if (one.independentOf.includes(of))
          edit({
            do: 'change',
            stage: one.id,
            with: { independentOf: one.independentOf.filter((id) => id !== of) },
          });
  };
  return (
    <Box w="100%">
      <Box role="group" aria-label={words.apart}>
        <Box fontSize="13px" color="quiet">
          {words.apart}
        </Box>
        <Flex columnGap="20px" flexWrap="wrap">
          {stagesOf(route).map((other, at) =>
            other.id === stage.id ? null : (
              <Tick
                key={other.id}
                checked={apart.includes(other.id)}
                disabled={other.independentOf.includes(stage.id) && planning.started(other.id) !== null}
                onChecked={(on) => put(other, on)}
              >
                {words.stageOf(verbWords[other.verb], at + 1)}
              </Tick>
            ),
          )}
        </Flex>
        <Box fontSize="13px" color="quiet">
          {words.apartNote}
        </Box>
      </Box>
    </Box>
  );
}

/** How many are needed: everyone, anyone, or so many. */
export function RuleField({
  label,
  rule,
  n,
  words: [all, any, atLeast],
  onRule,
}: {
  readonly label: string;
  readonly rule: Rule;
  readonly n: number;
  readonly words: readonly [string, string, string];
  readonly onRule: (rule: Rule) => void;
}) {
  return (
    <Flex gap="14px">
      <Box flex="1">
        <ChoiceField label={label} value={rule.kind} onChange={(event) => onRule(ruleOf(event.target.value, n))}>
          <option value="all">{all}</option>
          <option value="any">{any}</option>
          <option value="atLeast">{atLeast}</option>
        </ChoiceField>
      </Box>
      {rule.kind === 'atLeast' && (
        <Box w="90px">
          <TextField
            label={words.atLeastN}
            type="number"
            min={1}
            value={rule.k}
            onChange={(event) => onRule({ kind: 'atLeast', k: Math.max(1, Number(event.target.value) || 1) })}
          />
        </Box>
      )}
    </Flex>
  );
}

function AllowsFields({ stage, set }: { readonly stage: Stage; readonly set: (allows: Allows) => void }) {
  const { allows, verb } = stage;
  const put = (part: Partial<Allows>) => set({ ...allows, ...part });
  const when = (key: 'print' | 'download') => (
    <WordedChoice
      label={words[key]}
      of={availabilities}
      words={words.availability}
      value={allows[key]}
      onValue={(one) => put({ [key]: one })}
    />
  );
  return (
    <>
      <Box w="220px">
        <WordedChoice
          label={words.delegate}
          of={['freely', 'agreed', 'no']}
          words={{ freely: words.delegateFreely, agreed: words.delegateAgreed, no: words.delegateNo }}
          value={allows.delegate}
          onValue={(delegate) => put({ delegate })}
        />
      </Box>
      <Box w="180px">{when('print')}</Box>
      <Box w="180px">{when('download')}</Box>
      <Box pt="20px">
        <Tick checked={allows.comment} onChecked={(comment) => put({ comment })}>
          {words.mayComment}
        </Tick>
        {verbFacts[verb].signs && (
          <Tick checked={allows.changes} onChecked={(changes) => put({ changes })}>
            {words.mayChanges}
          </Tick>
        )}
      </Box>
    </>
  );
}

function ruleOf(kind: string, n: number): Rule {
  if (kind === 'any') return { kind: 'any' };
  return kind === 'atLeast' ? { kind: 'atLeast', k: Math.max(1, Math.ceil(n / 2)) } : { kind: 'all' };
}
