'use client';

import { Box, Flex } from '@chakra-ui/react';
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
import { type FactType, type FactValue, standardFacts } from '@/core/route/facts';
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
  const put = (next: Partial<Parts>) => parts && onChange(conditionOf({ ...parts, ...next }));
  return (
    <Box>
      <Box aria-live="polite" mb="8px" fontWeight={600}>
        {condition ? say(condition) : words.none}
      </Box>
      {!parts && (
        <Box color="quiet" mb="8px">
          {words.nested}
        </Box>
      )}
      {parts && parts.items.length > 1 && (
        <Choose
          w="auto"
          mb="8px"
          aria-label={words.mode}
          value={parts.mode}
          onChange={(event) => put({ mode: event.target.value as Mode })}
        >
          <option value="all">{words.all}</option>
          <option value="any">{words.any}</option>
          <option value="none">{words.noneOf}</option>
        </Choose>
      )}
      {parts?.items.map((item, i) => (
        <ComparedRow
          key={i}
          item={item}
          subjects={subjects}
          factTypes={view.factTypes}
          onChange={(next) => put({ items: parts.items.map((one, at) => (at === i ? next : one)) })}
          onRemove={() => put({ items: parts.items.filter((_, at) => at !== i) })}
        />
      ))}
      <Flex gap="14px" mt="6px" align="center">
        {parts && (
          <SideButton
            minH="30px"
            autoFocus={parts.items.length === 0}
            onClick={() => {
              const [first] = subjects;
              const next = first && comparedFrom(first.value, view.factTypes);
              if (next) put({ items: [...parts.items, next] });
            }}
          >
            {parts.items.length === 0 ? words.first : words.add}
          </SideButton>
        )}
        {condition && <WordButton onClick={() => onChange(null)}>{words.remove}</WordButton>}
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

function comparedFrom(subject: string, types: readonly FactType[]): Compared | null {
  const [kind, id = ''] = subject.split(' ');
  if (kind === 'record') return { kind: 'record', field: id as RecordFact, is: 'is', value: '' };
  if (kind === 'stage') return { kind: 'outcome', stage: id, outcome: 'approvedWithComments' };
  const type = types.find((one) => one.id === id);
  if (!type) return null;
  const [is] = comparisonsOf(type.kind);
  return { kind: 'fact', fact: id, is: is as Comparison, value: standardFacts([type])[id] ?? emptyValue(type) };
}

function emptyValue(type: FactType): FactValue {
  switch (type.kind) {
    case 'amount':
      return { kind: 'amount', thousandths: 0, currency: type.currency || 'EUR' };
    case 'number':
      return { kind: 'number', thousandths: 0 };
    case 'yesNo':
      return { kind: 'yesNo', yes: true };
    case 'choice':
      return { kind: 'choice', text: type.choices[0] ?? '' };
    case 'party':
      return { kind: 'party', text: '' };
    case 'date':
      return { kind: 'date', day: '' };
    case 'person':
      return { kind: 'person', person: '' };
  }
}

function ComparedRow({
  item,
  subjects,
  factTypes,
  onChange,
  onRemove,
}: {
  readonly item: Compared;
  readonly subjects: readonly Subject[];
  readonly factTypes: readonly FactType[];
  readonly onChange: (item: Compared) => void;
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
          const next = comparedFrom(event.target.value, factTypes);
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
            {comparisonsOf(item.value.kind).map((is) => (
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
                onChange={(value) => value && onChange({ ...item, value })}
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
              {words.outcomes[outcome]}
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
  readonly onChange: (item: Compared) => void;
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
