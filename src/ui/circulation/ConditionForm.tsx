'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { stageOutcomeWords } from '@/core/circulation/telling/sentences';
import {
  type Compared,
  type Comparison,
  type Condition,
  comparisonsOf,
  type RecordFact,
  recordFacts,
  type StageOutcome,
  stageOutcomes,
} from '@/core/route/condition';
import type { FactType } from '@/core/route/facts';
import { type Stage, stagesOf } from '@/core/route/route';
import { useOrganization } from '../data/organization';
import { useAsk } from '../data/use';
import { verbWords } from '../line/words';
import { SideButton, WordButton } from '../parts/buttons';
import { Choose } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { useConditionWords } from './conditionWords';
import { FactInput } from './FactInput';
import type { Planning } from './usePlanning';
import { circulationWords } from './words';

const words = circulationWords.plan.condition;

type Mode = 'all' | 'any' | 'none';

/** A comparison while it is chosen: what it is compared with may still be open. */
type Draft = Compared | (Omit<Extract<Compared, { kind: 'fact' }>, 'value'> & { readonly value: null });

interface Parts {
  readonly mode: Mode;
  readonly items: readonly Compared[];
}

/** A condition as it is built by choosing: all, any or none of some comparisons. Null for one that is nested otherwise. */
function partsIn(condition: Condition | null): Parts | null {
  if (condition === null) return { mode: 'all', items: [] };
  const inner = condition.kind === 'not' ? condition.of : condition;
  const mode: Mode = condition.kind === 'not' ? 'none' : inner.kind === 'any' ? 'any' : 'all';
  if (inner.kind === 'not') return null;
  const items = inner.kind === 'all' || inner.kind === 'any' ? inner.of : [inner];
  // "None of them" is the not of "any of them".
  if (condition.kind === 'not' && inner.kind === 'all' && inner.of.length > 1) return null;
  const flat = items.filter((one): one is Compared => one.kind !== 'all' && one.kind !== 'any' && one.kind !== 'not');
  return flat.length === items.length ? { mode, items: flat } : null;
}

function conditionOf({ mode, items }: Parts): Condition | null {
  const [first] = items;
  if (!first) return null;
  const joined: Condition = items.length === 1 ? first : { kind: mode === 'all' ? 'all' : 'any', of: items };
  return mode === 'none' ? { kind: 'not', of: joined } : joined;
}

/** When a stage or a branch is taken at all: built by choosing, read back as a sentence. */
export function ConditionForm({
  condition,
  before,
  planning,
  onChange,
  onDone,
}: {
  readonly condition: Condition | null;
  /** The stages that have certainly ended by then. */
  readonly before: readonly Stage[];
  readonly planning: Planning;
  readonly onChange: (condition: Condition | null) => void;
  readonly onDone: () => void;
}) {
  const { view, route } = planning;
  const say = useConditionWords(view, route);
  const parts = partsIn(condition);
  const subjects = subjectsFor(view.factTypes, before, stagesOf(route));
  const draft = () => {
    const [first] = subjects;
    const made = first && draftOf(first.value, view.factTypes);
    return made ? [made] : [];
  };
  // What is not chosen to its end stays on the page: a plan never holds half a condition.
  const [items, setItems] = useState<readonly Draft[]>(() => (parts?.items.length ? parts.items : draft()));
  const [mode, setMode] = useState<Mode>(parts?.mode ?? 'all');
  const put = (next: { readonly mode?: Mode; readonly items?: readonly Draft[] }) => {
    const now = { mode, items, ...next };
    setItems(now.items);
    setMode(now.mode);
    onChange(conditionOf({ mode: now.mode, items: now.items.filter(isWhole) }));
  };
  return (
    <Box
      onKeyDown={(event) => {
        if (event.key !== 'Escape') return;
        event.stopPropagation();
        onDone();
      }}
    >
      <Box aria-live="polite" mb="8px" fontWeight={600}>
        {condition ? say(condition) : words.none}
      </Box>
      {!parts && (
        <Box color="quiet" mb="8px">
          {words.nested}
        </Box>
      )}
      {parts && items.length > 1 && (
        <Choose
          w="auto"
          mb="8px"
          aria-label={words.mode}
          value={mode}
          onChange={(event) => put({ mode: event.target.value as Mode })}
        >
          <option value="all">{words.all}</option>
          <option value="any">{words.any}</option>
          <option value="none">{words.noneOf}</option>
        </Choose>
      )}
      {parts &&
        items.map((item, i) => (
          <ComparedRow
            key={i}
            item={item}
            subjects={subjects}
            factTypes={view.factTypes}
            focused={i === items.length - 1 && !isWhole(item)}
            onChange={(next) => put({ items: items.map((one, at) => (at === i ? next : one)) })}
            onRemove={() => put({ items: items.filter((_, at) => at !== i) })}
          />
        ))}
      <Flex gap="14px" mt="6px" align="center">
        {parts && (
          <SideButton minH="30px" onClick={() => put({ items: [...items, ...draft()] })}>
            {items.length === 0 ? words.first : words.add}
          </SideButton>
        )}
        {condition && (
          <WordButton
            onClick={() => {
              setItems([]);
              onChange(null);
            }}
          >
            {words.remove}
          </WordButton>
        )}
        <WordButton onClick={onDone}>{circulationWords.plan.done}</WordButton>
      </Flex>
    </Box>
  );
}

interface Subject {
  readonly value: string;
  readonly label: string;
}

/** What can be compared: the facts of the type, the record, and how earlier stages ended. */
function subjectsFor(types: readonly FactType[], before: readonly Stage[], all: readonly Stage[]): Subject[] {
  return [
    ...types.map((type) => ({ value: `fact ${type.id}`, label: type.name })),
    ...recordFacts.map((field) => ({ value: `record ${field}`, label: words.record[field] })),
    ...before.map((stage) => ({
      value: `stage ${stage.id}`,
      label: words.inStage(circulationWords.plan.stageOf(verbWords[stage.verb], all.indexOf(stage) + 1)),
    })),
  ];
}

function draftOf(subject: string, types: readonly FactType[]): Draft | null {
  const [kind, id = ''] = subject.split(' ');
  if (kind === 'record') return { kind: 'record', field: id as RecordFact, is: 'is', value: '' };
  if (kind === 'stage') return { kind: 'outcome', stage: id, outcome: 'approvedWithComments' };
  const type = types.find((one) => one.id === id);
  const [is] = type ? comparisonsOf(type.kind) : [];
  return is ? { kind: 'fact', fact: id, is, value: null } : null;
}

/** Whether a comparison says everything that it needs. */
function isWhole(draft: Draft): draft is Compared {
  return draft.kind === 'outcome' || (draft.value !== null && draft.value !== '');
}

function ComparedRow({
  item,
  subjects,
  factTypes,
  focused,
  onChange,
  onRemove,
}: {
  readonly item: Draft;
  readonly subjects: readonly Subject[];
  readonly factTypes: readonly FactType[];
  /** Whether one goes on with what it is compared with. */
  readonly focused: boolean;
  readonly onChange: (item: Draft) => void;
  readonly onRemove: () => void;
}) {
  const subject =
    item.kind === 'fact'
      ? `fact ${item.fact}`
      : item.kind === 'record'
        ? `record ${item.field}`
        : `stage ${item.stage}`;
  const type = item.kind === 'fact' ? factTypes.find((one) => one.id === item.fact) : undefined;
  return (
    <Flex gap="8px" mb="6px" align="center" flexWrap="wrap">
      <Choose
        w="auto"
        aria-label={words.subject}
        value={subject}
        onChange={(event) => {
          const next = draftOf(event.target.value, factTypes);
          if (next) onChange(next);
        }}
      >
        {!subjects.some(({ value }) => value === subject) && <option value={subject}>{words.gone}</option>}
        {subjects.map(({ value, label }) => (
          <option key={value} value={value}>
            {label}
          </option>
        ))}
      </Choose>
      {item.kind === 'fact' && (
        <>
          <Choose
            w="auto"
            aria-label={words.comparison}
            value={item.is}
            onChange={(event) => onChange({ ...item, is: event.target.value as Comparison })}
          >
            {(type ? comparisonsOf(type.kind) : [item.is]).map((is) => (
              <option key={is} value={is}>
                {words.comparisons[is]}
              </option>
            ))}
          </Choose>
          <Box w="230px">
            {type && (
              <FactInput
                type={type}
                label={words.value}
                value={item.value}
                focused={focused}
                onChange={(value) => onChange(value === null ? { ...item, value } : { ...item, value })}
              />
            )}
          </Box>
        </>
      )}
      {item.kind === 'record' && <RecordValue item={item} onChange={onChange} />}
      {item.kind === 'outcome' && (
        <Choose
          w="auto"
          aria-label={words.value}
          value={item.outcome}
          onChange={(event) => onChange({ ...item, outcome: event.target.value as StageOutcome })}
        >
          {stageOutcomes.map((outcome) => (
            <option key={outcome} value={outcome}>
              {stageOutcomeWords[outcome]}
            </option>
          ))}
        </Choose>
      )}
      <WordButton color="oxblood" fontWeight={500} onClick={onRemove}>
        {circulationWords.plan.remove}
      </WordButton>
    </Flex>
  );
}

function RecordValue({
  item,
  onChange,
}: {
  readonly item: Extract<Compared, { kind: 'record' }>;
  readonly onChange: (item: Draft) => void;
}) {
  const { units } = useOrganization();
  const { data: types } = useAsk('register.types');
  const options =
    item.field === 'unit'
      ? units.map(({ id, name }) => ({ id, name }))
      : (types ?? []).map(({ code, name }) => ({ id: code, name }));
  return (
    <>
      <Choose
        w="auto"
        aria-label={words.comparison}
        value={item.is}
        onChange={(event) => onChange({ ...item, is: event.target.value as 'is' | 'isNot' })}
      >
        <option value="is">{words.comparisons.is}</option>
        <option value="isNot">{words.comparisons.isNot}</option>
      </Choose>
      {item.field === 'owner' ? (
        <Box w="260px">
          <OnePerson
            label={words.value}
            insideOnly
            person={item.value || null}
            onPerson={(who) => onChange({ ...item, value: who?.person ?? '' })}
          />
        </Box>
      ) : (
        <Choose
          w="auto"
          aria-label={words.value}
          value={item.value}
          onChange={(event) => onChange({ ...item, value: event.target.value })}
        >
          <option value="">{words.choose}</option>
          {options.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Choose>
      )}
    </>
  );
}
