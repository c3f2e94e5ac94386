import { describe, expect, it } from 'vitest';
import { involvedIn } from '@/core/access/may';
import { sightOf } from '@/core/access/sight';
import { allowed, offers } from '@/core/circulation/acts/offers';
import { amendBasis } from '@/core/circulation/plan/amending';
import { previewOf } from '@/core/circulation/plan/preview';
import type { Circulation } from '@/core/circulation/run/state';
import { history } from '@/core/circulation/telling/history';
import { messagesOf } from '@/core/circulation/telling/messages';
import { sentence, valueInWords } from '@/core/circulation/telling/sentences';
import { tasksOf, timersOf } from '@/core/circulation/telling/tasks';
import { courseOf } from '@/core/forecast/compile';
import { learn } from '@/core/forecast/fit';
import { forecastOf } from '@/core/forecast/forecast';
import { type Model, tailOf } from '@/core/forecast/model';
import { type Past, pastOf } from '@/core/forecast/past';
import { samplesOf } from '@/core/forecast/samples';
import { compactLine, lineFrom } from '@/core/line/compact';
import { layoutLine } from '@/core/line/layout';
import { lineOf } from '@/core/line/line';
import { edited } from '@/core/route/edit';
import { mended, mendingOf, preflight } from '@/core/route/preflight';
import { type Route, type Series, stagesOf } from '@/core/route/route';
import { axisOf, usualCalendar } from '@/core/time/calendar';
import { presenceOf } from '@/core/time/presence';
import { nextOf } from '../model/differential';
import {
  contextOf,
  controller,
  drawsFrom,
  type Run,
  randomEdit,
  randomRoute,
  sensible,
  sentRun,
  start,
  step,
  subjectFor,
} from './arbitrary';

// What circulations tell, written down act by act as one reads it: who is told what, what stands on whose Desk, what may be
// done, how the line looks. A change of any of it shows here as a difference of text, which somebody has to read and keep.

const moment = (at: number) => new Date(at).toISOString().slice(5, 16).replace('T', ' ');
/** How long most acts come after one another, in milliseconds. */
const aMoment = 16;

/** What stood there before, and stands there no longer, and what is new. */
function changes(name: string, before: readonly string[], after: readonly string[]): string[] {
  const left = before.filter((line) => !after.includes(line)).map((line) => `    ${name} - ${line}`);
  const come = after.filter((line) => !before.includes(line)).map((line) => `    ${name} + ${line}`);
  return [...left, ...come];
}

const worded = (value: object) =>
  Object.entries(value)
    .filter(([, one]) => one !== null && one !== undefined && JSON.stringify(one) !== '[]')
    .map(([key, one]) => `${key} ${typeof one === 'number' && one > 1e12 ? moment(one) : JSON.stringify(one)}`)
    .join(', ');

const tasks = (state: Circulation, now: number) =>
  tasksOf(state, contextOf(now, controller)).map(({ person, doing, silence, ...rest }) =>
    [`${person} ${doing}`, worded(rest), silence ? `silent since ${moment(silence.since)}` : ''].join(' '),
  );
const may = (state: Circulation, now: number) =>
  [controller, 'rufus', 'petra'].flatMap((person) =>
    allowed(offers(state, contextOf(now, person))).map(({ act, on, needs: { basis: _, scope: __, ...needs } }) =>
      [person, act, on ?? '', worded(needs)].join(' ').trimEnd(),
    ),
  );

/** One circulation as a text: the route, then each act with what came of it. */
function story(seed: number): string[] {
  const files = 1 + (seed % 2);
  const run: Run = sentRun(randomRoute(drawsFrom(seed), 7, files), files, seed % 2 === 1);
  const lines = routeLines((run.state as Circulation).plan);
  const telling = {
    name: (person: string) => person,
    moment,
    value: (value: Parameters<typeof valueInWords>[0]) =>
      valueInWords(value, { person: (id) => id, day: (iso) => iso }),
  };
  let before: Circulation | null = null;
  let events = 0;
  const tell = (said: string) => {
    const state = run.state as Circulation;
    lines.push(`${moment(run.now)} ${said}`);
    for (const line of history(run.events).slice(events))
      lines.push(`    ${line.sequence} ${sentence(line, telling)}${line.hidden ? ' (hidden)' : ''}`);
    const fresh = run.events.slice(events);
    const following = new Map([['noor', 'everything' as const]]);
    for (const { template, person, ...about } of messagesOf(
      before,
      { state, events: fresh },
      { ...contextOf(run.now, fresh[0]?.actor ?? ''), following },
    ))
      lines.push(`    told ${person}: ${template} ${worded(about)}`.trimEnd());
    lines.push(...changes('desk', before ? tasks(before, run.now) : [], tasks(state, run.now)));
    lines.push(...changes('may', before ? may(before, run.now) : [], may(state, run.now)));
    const timers = (of: Circulation) => timersOf(of).map(({ kind, key, at }) => `${kind} ${key} ${moment(at)}`);
    lines.push(...changes('wakes', before ? timers(before) : [], timers(state)));
    const line = (of: Circulation) => [compactLine(lineOf(of.plan, of, run.now))];
    lines.push(...changes('line', before ? line(before) : [], line(state)));
    const sight = (of: Circulation) =>
      ['rufus', 'petra', 'lotte'].flatMap((person) =>
        [
          ...sightOf(
            {
              kind: 'circulation',
              state: of,
              rights: {
                kind: 'circulation',
                id: 'c',
                controller: of.controller,
                author: of.author,
                involved: involvedIn(of),
                leads: [],
              },
            },
            { kind: 'member', person, roles: [] },
            contextOf(run.now, person),
          ),
        ].map(([file, seen]) => `${person} ${file.slice(0, 6)} ${worded(seen)}`),
      );
    lines.push(...changes('sees', before ? sight(before) : [], sight(state)));
    before = state;
    events = run.events.length;
  };
  tell('sent');
  for (let i = 0; i < 40 && lines.length < 260; i += 1) {
    const draws = drawsFrom(seed * 1000 + i);
    const state = run.state as Circulation;
    if (state.ended !== null) break;
    const asked = i % 3 === 2 ? sensible(state, run) : nextOf(draws, state, run.now, files);
    if (!asked) continue;
    const { type, ...rest } = asked.command;
    const result = step(run, asked.command, asked.actor, draws.chance(0.3) ? draws.below(20) * 3_600_000 : aMoment);
    const shown = 'seat' in rest ? rest.seat : 'stage' in rest ? rest.stage : '';
    if (result.ok) tell(`${asked.actor}: ${type} ${shown}`.trimEnd());
    else lines.push(`${moment(run.now)} ${asked.actor}: ${type} ${shown} refused, ${worded(result.refusal)}`);
  }
  return lines;
}

function routeLines(plan: Series): string[] {
  const say = (part: Route, depth: number): string[] => {
    const pad = '  '.repeat(depth);
    if (part.kind === 'series') return part.parts.flatMap((one) => say(one, depth));
    if (part.kind === 'copies') return [`${pad}copies ${worded(part)}`];
    if (part.kind === 'stage') {
      const { seats, kind: _, ...rest } = part;
      return [`${pad}${worded(rest)}`, ...seats.map((seat) => `${pad}  ${worded(seat)}`)];
    }
    return [
      `${pad}fork ${worded(part.join)}`,
      ...part.branches.flatMap((one) => [
        `${pad}- ${one.name} ${one.condition ? JSON.stringify(one.condition) : ''}`.trimEnd(),
        ...say(one.route, depth + 1),
      ]),
    ];
  };
  return say(plan, 0);
}

/** A value as an outline: a line for each object with what it holds itself, then its parts; long rows of numbers by five of them. */
function inOutline(name: string, value: unknown, depth: number): string[] {
  const entries =
    value instanceof Map
      ? [...value].map(([key, one]) => [String(key), one] as const)
      : Object.entries(value as object);
  const said = entries.map(([key, one]): string | null => {
    if (ArrayBuffer.isView(one)) {
      const all = Array.from(one as Int32Array);
      return `${key} ${[0, 0.1, 0.5, 0.9, 1].map((at) => all[Math.floor(at * (all.length - 1))]).join('/')}`;
    }
    if (one instanceof Set) return `${key} ${[...one].join(' ')}`;
    return typeof one === 'object' && one !== null ? null : `${key} ${String(one)}`;
  });
  const parts = entries.flatMap(([key, one], i) => (said[i] === null ? inOutline(key, one, depth + 1) : []));
  const own = `${'  '.repeat(depth)}${name}: ${said.filter((one) => one !== null).join(', ')}`;
  return [own.replace(/: $/, ''), ...parts];
}

describe('stories', () => {
  it.each([2, 5, 12, 17, 23, 34, 41, 48])('of circulation %i', async (seed) => {
    await expect(`${story(seed).join('\n')}\n`).toMatchFileSnapshot(`stories/circulation-${seed}.txt`);
  });

  it('of what is checked before sending, and how it is mended', async () => {
    const lines: string[] = [];
    for (let seed = 1; seed <= 40; seed += 1) {
      const subject = subjectFor(randomRoute(drawsFrom(seed), 12, 2), {
        authorApproves: seed % 3 === 0,
        whole: { due: null, closes: null },
      });
      lines.push(`route ${seed}`);
      for (const finding of preflight(subject)) {
        const mending = mendingOf(subject, finding);
        lines.push(`  ${worded(finding)}`);
        if (mending?.kind === 'route')
          lines.push(...changes('', routeLines(subject.route), routeLines(mended(subject, mending).route)));
        else lines.push(`    ${mending ? worded(mending) : 'only a person can mend it'}`);
      }
    }
    await expect(`${lines.join('\n')}\n`).toMatchFileSnapshot('stories/checks.txt');
  });

  it('of amendments, and what they would change', async () => {
    const lines: string[] = [];
    for (let seed = 1; seed <= 60; seed += 1) {
      const run = sentRun(randomRoute(drawsFrom(seed), 8, 2), 2);
      for (let i = 0; i < seed % 6; i += 1) {
        const move = sensible(run.state as Circulation, run);
        if (move) step(run, move.command, move.actor, move.forward ?? 60_000);
      }
      const state = run.state as Circulation;
      const draws = drawsFrom(seed * 77);
      let plan = state.plan;
      const fresh = [1, 2, 3, 4, 5, 6, 7, 8, 9].map((i) => `x${i}`);
      const edits = [1, 2].map(() => randomEdit(draws, plan, () => fresh.shift() ?? ''));
      for (const edit of edits) plan = edited(plan, edit) ?? plan;
      const found = previewOf(
        state,
        {
          type: 'amend',
          basis: amendBasis(state),
          plan,
          note: state.note,
          whole: null,
          version: null,
          reason: null,
        },
        contextOf(run.now, controller),
      );
      lines.push(`amendment ${seed}: ${edits.map(({ do: does }) => does).join(', ')}`);
      if (!found.ok) lines.push(`  refused, ${worded(found.refusal)}`);
      else
        for (const [key, value] of Object.entries(found.preview))
          for (const one of Array.isArray(value) ? value : [value])
            lines.push(`  ${key}: ${typeof one === 'object' && one !== null ? worded(one) : String(one)}`);
    }
    await expect(`${lines.join('\n')}\n`).toMatchFileSnapshot('stories/amendments.txt');
  });

  it('of drawings: where everything of a line stands', async () => {
    const lines: string[] = [];
    for (const seed of [3, 8, 15, 22]) {
      const run = sentRun(randomRoute(drawsFrom(seed), 14, 2), 2);
      for (let i = 0; i < seed; i += 1) {
        const move = sensible(run.state as Circulation, run);
        if (move) step(run, move.command, move.actor, move.forward ?? 60_000);
      }
      const state = run.state as Circulation;
      const model = lineOf(state.plan, state, run.now);
      expect(compactLine(lineFrom(compactLine(model)))).toBe(compactLine(model));
      for (const density of ['large', 'tiny'] as const) {
        lines.push(`line ${seed}, ${density}`);
        const drawing = layoutLine(model, { width: density === 'large' ? 1088 : 132, density });
        for (const [key, value] of Object.entries(drawing))
          for (const one of Array.isArray(value) ? value : [value])
            lines.push(
              `  ${key}: ${JSON.stringify(one, (_, n) => (typeof n === 'number' ? Math.round(n * 10) / 10 : n))}`,
            );
      }
      expect(stagesOf(state.plan).length).toBeGreaterThan(0);
    }
    await expect(`${lines.join('\n')}\n`).toMatchFileSnapshot('stories/drawings.txt');
  });

  it('of forecasts: what is simulated, and what comes out', async () => {
    const lines: string[] = [];
    const spread = (hours: number, n: number) => ({
      mu: Math.log(hours * 60),
      sigma: 0.7,
      n,
      tail: tailOf([-1.5, 0.2, 0.4, 2]),
    });
    const model: Model = {
      fitted: start,
      n: 500,
      verbs: {
        contribute: spread(9, 90),
        review: spread(12, 60),
        approve: spread(6, 30),
        sign: spread(5, 8),
        read: spread(3, 2),
      },
      people: {
        'noor/review': { mu: Math.log(90), sigma: 0.4, n: 40 },
        'group:rescue/approve': { mu: 6, sigma: 1, n: 5 },
      },
      load: { slope: 0.3, usual: Math.log(3) },
      returns: { review: 150, approve: 80, sign: 40 },
      kept: 500,
      withComments: 250,
      rework: spread(8, 20),
      release: spread(2, 20),
    };
    const pasts: Past[] = [];
    for (let seed = 1; seed <= 9; seed += 1) {
      const run = sentRun(randomRoute(drawsFrom(seed), 9, 1), 1, seed % 4 === 0);
      for (let i = 0; i < seed; i += 1) {
        const draws = drawsFrom(seed * 500 + i);
        const state = run.state as Circulation;
        if (state.ended !== null) break;
        const asked = i % 4 === 3 ? nextOf(draws, state, run.now, 1) : sensible(state, run);
        if (asked) step(run, asked.command, asked.actor, draws.below(30) * 3_600_000);
      }
      pasts.push(pastOf(run.events));
      const state = run.state as Circulation;
      if (state.ended !== null || state.closed !== null || state.paused !== null) continue;
      const now = run.now + seed * 3_600_000;
      const open = new Map([
        ['petra', 5],
        ['noor', 1],
        ['group:rescue', 2],
      ]);
      const { course, home } = courseOf(state, { context: contextOf(now, controller), model, open });
      lines.push(`course ${seed}, seen ${moment(now)}`);
      lines.push(...inOutline('course', course, 1));
      const reading = { now, due: now + 20 * 86_400_000, tracking: [0.1, 0.3, 0.2] as const, home, runs: 300 };
      for (const { at, dates, stages, ...rest } of [forecastOf(course, reading)])
        lines.push(
          `  forecast ${moment(at)}: ${dates.map(moment).join(', ')}; ${JSON.stringify(rest)}`,
          ...stages.map(({ stage, from, to }) => `    ${stage} ${moment(from)} to ${moment(to)}`),
        );
    }
    const presence = (who: string) =>
      presenceOf(
        axisOf(usualCalendar, 'Europe/Oslo'),
        who === 'petra' ? [{ from: start, to: start + 86_400_000 }] : [],
      );
    const { samples, happened } = samplesOf(pasts, [], presence, start + 60 * 86_400_000);
    lines.push(
      'samples',
      ...samples.map((sample) => `  ${worded({ ...sample, minutes: Math.round(sample.minutes) })}`),
    );
    const rounded = (_: string, value: unknown) =>
      typeof value === 'number' ? Math.round(value * 10_000) / 10_000 : value;
    const { fitted, ...learnt } = learn(samples, happened, start);
    lines.push(`learnt ${moment(fitted)}`, ...JSON.stringify(learnt, rounded, 1).split('\n'));
    await expect(`${lines.join('\n')}\n`).toMatchFileSnapshot('stories/forecasts.txt');
  });
});
