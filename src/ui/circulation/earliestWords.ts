import { type Earliest, type Series, stagesOf } from '@/core/route/route';
import { durationText } from '@/core/time/moment';
import { useTimes } from '../data/use';
import { verbWords } from '../line/words';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** Says from when somebody may respond: "not before Mon 14 Dec, 08:00", "not before 2 working days after they open it". */
export function useEarliestWords(route: Series): (earliest: Earliest) => string {
  const times = useTimes();
  const stages = stagesOf(route);
  return (earliest) => {
    if (earliest.kind === 'date') return words.notBeforeDate(times.moment(earliest.at));
    const { from } = earliest;
    if (from === 'asked') return words.notBeforeAsked(durationText(earliest));
    if (from === 'opened') return words.notBeforeOpened(durationText(earliest));
    const at = stages.findIndex((stage) => stage.id === from.stage);
    const called = stages[at] ? words.stageOf(verbWords[stages[at].verb], at + 1) : words.condition.gone;
    return words.notBeforeStage(durationText(earliest), called);
  };
}
