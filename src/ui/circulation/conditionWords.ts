import { recordNouns, stageOutcomeWords, valueInWords } from '@/core/circulation/telling/sentences';
import { type Condition, conditionInWords } from '@/core/route/condition';
import type { FactType, FactValue } from '@/core/route/facts';
import { type Series, stagesOf } from '@/core/route/route';
import { dayText } from '@/core/time/typed';
import { useOrganization } from '../data/organization';
import { usePeople } from '../data/people';
import { useAsk } from '../data/use';
import { verbWords } from '../line/words';
import { circulationWords } from './words';

const words = circulationWords.plan.condition;

/** A value of a fact as people write it. */
export function useValueWords(): (value: FactValue) => string {
  const { name } = usePeople();
  return (value) => valueInWords(value, { person: name, day: (iso) => dayText(iso) });
}

/** Says a condition as a sentence: "only when the amount is over 100,000 NOK". */
export function useConditionWords(
  view: { readonly factTypes: readonly FactType[]; readonly factNames: Readonly<Record<string, string>> },
  route: Series,
): (condition: Condition) => string {
  const { name } = usePeople();
  const { units } = useOrganization();
  const { data: types } = useAsk('register.types');
  const value = useValueWords();
  const stages = stagesOf(route);
  return (condition) =>
    words.only(
      conditionInWords(condition, {
        fact: (id) =>
          words.the(view.factTypes.find((type) => type.id === id)?.name ?? view.factNames[id] ?? words.gone),
        value,
        record: (field) => words.the(recordNouns[field]),
        recordValue: (field, of) =>
          (field === 'owner'
            ? name(of)
            : field === 'unit'
              ? units.find((unit) => unit.id === of)?.name
              : types?.find((type) => type.code === of)?.name) ?? words.gone,
        outcome: (id, outcome) => {
          const at = stages.findIndex((stage) => stage.id === id);
          const stage = stages[at];
          const called = stage ? circulationWords.plan.stageOf(verbWords[stage.verb], at + 1) : words.gone;
          return `${stageOutcomeWords[outcome]} ${words.inStage(called).toLowerCase()}`;
        },
      }),
    );
}
