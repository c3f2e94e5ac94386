'use client';

import { lineFrom } from '@/core/line/compact';
import type { LineModel } from '@/core/line/line';
import { isLate } from '@/core/time/press';
import type { Times } from '../data/use';
import { TinyLine } from '../line/TinyLine';
import { toneOf } from '../line/tone';
import { NewDot, PersonName } from '../parts/parts';
import type { Column } from '../parts/Rows';
import { look } from '../theme/look';
import type { Row } from './useDesk';
import { doWords, deskWords as words } from './words';

/** The columns of the Desk; documents among `news` are marked as new. */
export function deskColumns(
  times: Times,
  news: ReadonlySet<string>,
  lineWords: (model: LineModel) => string,
): Column<Row>[] {
  const now = times.now();
  return [
    {
      name: words.columns.do,
      width: '116px',
      wide: true,
      cell: ({ task }) => <span className={look('strong')}>{doWords[task.doing]}</span>,
    },
    {
      name: words.columns.number,
      width: '104px',
      wide: true,
      cell: ({ task }) => <span className={look('quiet')}>{task.number}</span>,
    },
    {
      name: words.columns.document,
      width: 'minmax(0, 1fr)',
      cell: ({ task, others, covers }) => (
        <>
          {news.has(task.circulation) && <NewDot />}
          <span className={look(news.has(task.circulation) && 'strong')}>{task.title}</span>
          {covers && <span className={look('after')}>{words.covered}</span>}
          {others.length > 0 && (
            <span className={look('after')}>
              {words.alsoDoing(others.map((other) => doWords[other.doing].toLowerCase()).join(', '))}
            </span>
          )}
          <div className={look('phoneOnly', 'cut', 'small')}>
            <span className={look('strong')}>{doWords[task.doing]}</span>
            <span className={look('after')}>
              <When task={task} times={times} />
            </span>
          </div>
        </>
      ),
    },
    {
      name: words.columns.where,
      width: '140px',
      cell: ({ task }) => <TinyLine model={lineFrom(task.line)} tone={toneOf(task, now)} words={lineWords} />,
    },
    {
      name: words.columns.concerns,
      width: '190px',
      wide: true,
      cell: ({ task, waits, covers }) => <PersonName id={waits || covers ? task.person : task.about} />,
    },
    {
      name: words.columns.when,
      width: '170px',
      align: 'end',
      wide: true,
      cell: ({ task }) => <When task={task} times={times} />,
    },
  ];
}

/** From when something can be done, or by when it is due, or since when it waits. */
function When({ task, times }: { readonly task: Row['task']; readonly times: Times }) {
  const now = times.now();
  if (task.notBefore !== null && task.notBefore > now)
    return <span className={look('quiet')}>{words.from(times.moment(task.notBefore))}</span>;
  if (task.due !== null)
    return <span className={look(isLate(task.due, now) ? 'late' : 'quiet')}>{words.due(times.moment(task.due))}</span>;
  return <span className={look('quiet')}>{words.since(times.day(task.since))}</span>;
}
