import { routeLimits } from '@/core/route/route';
import { personNamed } from '../admin/people';
import { giveBackTaken } from '../circulation/giveBackTaken';
import type { Tx } from '../db/connect';
import { asItIs, flag, listOf, oneOf, optional, orNull, shape, text } from '../operations/input';
import type { Claim, Member } from '../operations/operation';
import { inGeneral, memberOperation } from '../operations/operation';
import { covers, id, idOrNone, instant, personName } from '../operations/pieces';
import { calendarFacts } from '../operations/routePieces';
import { refuse } from '../refused';
import { absenceNamed, absencesAhead, endAbsence, saveAbsence } from './absences';
import { calendarsOf, removeCalendar, saveCalendar } from './calendars';
import { groupsOf, removeGroup, saveGroup } from './groups';
import { readHolidays } from './holidays';
import { importTable, presentTable, readTable } from './importTable';
import { type Place, placePerson } from './place';
import { officesOf, removeOffice, saveOffice } from './roles';
import { reachOfRules, rules, rulesOf, setRule } from './rules';
import { peopleOfUnits, removeUnit, saveUnit, unitNamed, unitsOf } from './units';

const manage = inGeneral('organization.manage');
const least = { most: 5000 } as const;
const table = oneOf('people', 'units', 'groups');
const tableText = text(1_000_000);

/** Everybody says when they are away themselves; an administrator says it for others. */
function onAbsence(person: string | null, actor: Member): Claim | null {
  if (person === null) return null;
  return { action: person === actor.person ? 'session.own' : 'people.manage', subject: { kind: 'organization' } };
}

/** Administrators arrange every unit, its lead and deputy their own. */
async function onUnit(tx: Tx, input: { readonly id: string }): Promise<Claim> {
  const unit = await unitNamed(tx, input.id);
  return {
    action: 'unit.manage',
    subject: { kind: 'unit', lead: unit?.lead ?? null, deputy: unit?.deputy ?? null, there: unit !== null },
  };
}

/**
 * Leads arrange who belongs to their unit already, and may let them go; taking somebody in gives rights over what they own,
 * and is the administrators'.
 */
async function onPlace(tx: Tx, input: Place): Promise<Claim> {
  const id = (await personNamed(tx, input.person))?.unit ?? null;
  const unit = id === null ? null : await unitNamed(tx, id);
  const stays = (input.unit ?? id) === id;
  return {
    action: 'unit.manage',
    subject: { kind: 'unit', lead: unit?.lead ?? null, deputy: unit?.deputy ?? null, there: unit !== null && stays },
  };
}

export const organizationOperations = [
  memberOperation({
    name: 'organization.view',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('people.read'),
    run: async (tx) => ({
      units: [...(await unitsOf(tx))],
      groups: await groupsOf(tx),
      roles: [...(await officesOf(tx))],
      calendars: [...(await calendarsOf(tx))],
      rules: [...(await rulesOf(tx))],
      absences: await absencesAhead(tx),
    }),
  }),

  memberOperation({
    name: 'units.people',
    kind: 'query',
    input: shape({ units: listOf(id, { least: 1, most: routeLimits.seats }) }),
    claim: inGeneral('people.read'),
    run: (tx, input) => peopleOfUnits(tx, input.units),
  }),

  memberOperation({
    name: 'units.save',
    kind: 'command',
    input: shape({ id, name: personName, lead: idOrNone, deputy: idOrNone }),
    claim: onUnit,
    changes: ['settings'],
    run: async (tx, input, actor) => {
      await saveUnit(tx, input, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'units.remove',
    kind: 'command',
    input: shape({ id }),
    claim: manage,
    changes: ['settings', 'people'],
    run: async (tx, input, actor) => {
      await removeUnit(tx, input.id, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'people.place',
    kind: 'command',
    input: shape({ person: id, unit: asItIs(id), calendar: asItIs(id) }),
    claim: onPlace,
    changes: ['people', 'settings', 'circulation'],
    run: async (tx, input, actor) => {
      await placePerson(tx, input, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'absences.save',
    kind: 'command',
    input: shape({ id, person: id, from: instant, to: instant, covers }),
    claim: (_tx, input, actor) => onAbsence(input.person, actor),
    changes: ['people', 'settings', 'circulation'],
    run: async (tx, input, actor) => {
      await saveAbsence(tx, input, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'absences.end',
    kind: 'command',
    input: shape({ id }),
    claim: async (tx, input, actor) => onAbsence((await absenceNamed(tx, input.id))?.person ?? null, actor),
    changes: ['people', 'settings', 'circulation'],
    run: async (tx, input, actor) => {
      await endAbsence(tx, input.id, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'groups.save',
    kind: 'command',
    input: shape({ id, name: personName, members: listOf(id, least) }),
    claim: manage,
    limit: 512 * 1024,
    changes: ['settings', 'circulation'],
    run: async (tx, input, actor) => {
      const { left } = await saveGroup(tx, input, actor.person);
      for (const person of left) await giveBackTaken(tx, person, input.id);
      return null;
    },
  }),

  memberOperation({
    name: 'groups.remove',
    kind: 'command',
    input: shape({ id }),
    claim: manage,
    changes: ['settings'],
    run: async (tx, input, actor) => {
      await removeGroup(tx, input.id, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'roles.save',
    kind: 'command',
    input: shape({ id, name: personName, person: idOrNone }),
    claim: manage,
    changes: ['settings'],
    run: async (tx, input, actor) => {
      await saveOffice(tx, input, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'roles.remove',
    kind: 'command',
    input: shape({ id }),
    claim: manage,
    changes: ['settings'],
    run: async (tx, input, actor) => {
      await removeOffice(tx, input.id, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'calendars.save',
    kind: 'command',
    input: calendarFacts,
    claim: manage,
    limit: 1024 * 1024,
    changes: ['settings'],
    run: async (tx, input, actor) => {
      await saveCalendar(tx, input, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'calendars.remove',
    kind: 'command',
    input: shape({ id }),
    claim: manage,
    changes: ['settings'],
    run: async (tx, input, actor) => {
      await removeCalendar(tx, input.id, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'calendars.readHolidays',
    kind: 'query',
    input: shape({ content: text(500_000) }),
    claim: manage,
    limit: 2 * 1024 * 1024,
    run: async (tx, input) => readHolidays(input.content, tx.now),
  }),

  memberOperation({
    name: 'rules.reach',
    kind: 'query',
    input: shape({}),
    claim: manage,
    run: (tx) => reachOfRules(tx),
  }),

  memberOperation({
    name: 'rules.set',
    kind: 'command',
    input: shape({ rule: oneOf(...rules), on: flag }),
    claim: manage,
    changes: ['settings'],
    run: async (tx, input, actor) => {
      await setRule(tx, input.rule, input.on, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'organization.table',
    kind: 'query',
    input: shape({ table }),
    claim: manage,
    run: (tx, input) => presentTable(tx, input.table),
  }),

  memberOperation({
    name: 'organization.readTable',
    kind: 'query',
    input: shape({ table, content: tableText }),
    claim: manage,
    limit: 4 * 1024 * 1024,
    run: (tx, input) => readTable(tx, input.table, input.content),
  }),

  memberOperation({
    name: 'organization.importTable',
    kind: 'command',
    input: shape({ table, content: tableText, invite: optional(flag, false), sign: orNull(text(64)) }),
    claim: manage,
    limit: 4 * 1024 * 1024,
    changes: ['people', 'settings', 'circulation'],
    run: async (tx, input, actor) => {
      const read = await readTable(tx, input.table, input.content);
      // What is written is what was looked at.
      if (read.faults > 0 || (input.sign !== null && input.sign !== read.sign)) refuse('table-moved');
      return importTable(tx, input.table, read, input.invite, actor.person);
    },
  }),
] as const;
