import { useEffect, useMemo, useRef, useState } from 'react';
import type { PersonFacts } from '@/core/circulation/run/context';
import type { Variant } from '@/core/forecast/variants';
import { instantOf, personOf, stagesOf } from '@/core/route/route';
import type { Foresight, ForesightAnswer } from '@/workers/foresee';
import { useOrganization } from '../data/organization';
import { usePeople } from '../data/people';
import { useAsk, useMe } from '../data/use';
import { useSettled } from '../data/useSettled';
import type { Planning } from './usePlanning';

const sameRoute = (a: Variant, b: Variant) => JSON.stringify([a.plan, a.facts]) === JSON.stringify([b.plan, b.facts]);

/**
 * When a plan would be released if it were sent now, and what its last change saves, played in a web worker a moment after
 * each change; null while nothing is known, or where the organization has too short a past.
 */
export function useForesight({ view, route, values: facts, whole, subject }: Planning): ForesightAnswer | null {
  const usual = useAsk('forecast.usual').data;
  const { data: me } = useMe();
  const { calendars, absences } = useOrganization();
  const { person } = usePeople();
  const { author, controller } = view;
  const due = instantOf(whole.due);
  const [answer, setAnswer] = useState<ForesightAnswer | null>(null);
  const worker = useRef<Worker | null>(null);
  const last = useRef<{ readonly now: Variant; readonly before: Variant | null } | null>(null);

  const given = useMemo<Foresight | null>(() => {
    if (!usual || stagesOf(route).length === 0) return null;
    const variant: Variant = { plan: route, facts, due, author, controller };
    const members = [...subject.groups.values()].flatMap((group) => group.members);
    const offices = [...subject.roles.values()].flatMap((role) => role.person ?? []);
    const seated = stagesOf(route).flatMap(({ seats }) =>
      seats.flatMap(({ assignment }) => personOf(assignment) ?? []),
    );
    const named = new Set([author, controller, ...seated, ...members, ...offices]);
    const people = new Map<string, PersonFacts>(
      [...named].flatMap((id) => {
        const known = person(id);
        return known
          ? [[id, { outside: known.kind !== 'member', active: true, zone: known.zone, calendar: known.calendar }]]
          : [];
      }),
    );
    const home = { zone: me?.organization.zone ?? 'UTC', calendar: calendars.find((one) => one.usual)?.id ?? null };
    return {
      variant,
      beside: null,
      context: {
        now: subject.now,
        people,
        groups: new Map([...subject.groups].map(([id, { members }]) => [id, { name: '', members }])),
        roles: new Map([...subject.roles].map(([id, { person: by }]) => [id, { name: '', person: by }])),
        factTypes: subject.factTypes,
        record: subject.record,
        absences,
        calendars: new Map(calendars.map((calendar) => [calendar.id, calendar])),
        home,
      },
      ...usual,
    };
  }, [usual, route, facts, due, author, controller, subject, calendars, absences, person, me?.organization.zone]);

  const settled = useSettled(given, 250);
  useEffect(() => {
    if (!settled) return setAnswer(null);
    const { variant } = settled;
    // A minute that went by is no change of the plan.
    const former = last.current;
    if (former && sameRoute(former.now, variant)) last.current = { ...former, now: variant };
    else last.current = { now: variant, before: former?.now ?? null };
    worker.current ??= new Worker(new URL('../../workers/foresee.ts', import.meta.url), { type: 'module' });
    worker.current.onmessage = ({ data }: MessageEvent<ForesightAnswer>) => setAnswer(data);
    worker.current.postMessage({ ...settled, beside: last.current.before });
  }, [settled]);
  useEffect(
    () => () => {
      worker.current?.terminate();
      worker.current = null;
    },
    [],
  );
  return answer;
}
