import { conditionsOf, copiesOf, type Series, stagesOf } from '@/core/route/route';
import { durationText } from '@/core/time/moment';
import { useAssignments } from '../data/organization';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import type { LineLabels } from '../line/LineDrawing';
import { lineWords } from '../line/words';
import { useConditionWords } from './conditionWords';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** What stands on a line besides verbs and facts: conditions, waits and boards, as planned or as they have been reached. */
export function useLineLabels(
  view: Parameters<typeof useConditionWords>[0],
  route: Series,
  reached: readonly { readonly id: string; readonly to: readonly { readonly person: string }[] }[] = [],
): Required<Pick<LineLabels, 'condition' | 'waits' | 'board'>> {
  const times = useTimes();
  const { name } = usePeople();
  const { called } = useAssignments();
  const say = useConditionWords(view, route);
  return {
    condition: (part) => {
      const condition = conditionsOf(route).find((one) => one.part === part)?.condition;
      return condition ? say(condition) : null;
    },
    waits: (id) => {
      const earliest = stagesOf(route).find((stage) => stage.id === id)?.earliest;
      if (!earliest) return null;
      return earliest.kind === 'date'
        ? words.notBeforeShort(times.day(earliest.at))
        : words.waitShort(durationText(earliest));
    },
    board: (id) => {
      const people = reached.find((run) => run.id === id)?.to.map(({ person }) => name(person)) ?? [];
      const planned = copiesOf(route)
        .find((board) => board.id === id)
        ?.to.map(({ assignment }) => called(assignment));
      const who = people.length > 0 ? people : (planned ?? []);
      if (who.length === 0) return words.copiesEmpty;
      return who.length === 1 ? lineWords.copiesTo(who[0] ?? '') : lineWords.copies(who.length);
    },
  };
}
