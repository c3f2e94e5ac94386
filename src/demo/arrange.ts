import type { FactType } from '@/core/route/facts';
import { dayOfNumber, usualCalendar } from '@/core/time/calendar';
import { describeDocumentType, documentTypes } from '@/server/admin/documentTypes';
import type { Tx } from '@/server/db/connect';
import { saveCalendar } from '@/server/organization/calendars';
import { saveGroup } from '@/server/organization/groups';
import { placePerson } from '@/server/organization/place';
import { saveOffice } from '@/server/organization/roles';
import { saveUnit } from '@/server/organization/units';

const day = 86_400_000;

/** Units with lead and deputy, and who belongs to them. */
const units = [
  ['ropes', 'Ropes and drives', 'rufus', 'yuki', ['rufus', 'yuki', 'noor']],
  ['operations', 'Operations', 'oskar', 'caspian', ['oskar', 'caspian']],
  ['safety', 'Safety', 'petra', null, ['petra']],
  ['guests', 'Guest services', 'fenna', null, ['fenna']],
  ['contracts', 'Contracts', 'dalia', null, ['dalia']],
] as const;

const roles = [
  ['safety-manager', 'safety manager', 'petra'],
  ['operations-manager', 'operations manager', 'oskar'],
  ['managing-director', 'managing director', 'benedikt'],
  ['rope-mechanic', 'rope mechanic', 'yuki'],
  ['head-of-rope', 'head of rope and drive', 'rufus'],
  ['electrical-engineer', 'electrical engineer', 'noor'],
] as const;

const groups = [
  ['rescue', 'Rescue group', ['caspian', 'fenna', 'noor', 'petra']],
  ['supervisors', 'Lift supervisors', ['caspian', 'yuki']],
] as const;

const fact = (id: string, name: string, kind: FactType['kind'], more: Partial<FactType> = {}): FactType => ({
  id,
  name,
  kind,
  needed: false,
  choices: [],
  currency: 'EUR',
  least: null,
  most: null,
  standard: null,
  ...more,
});

/** Arranges Marrowfell: calendars, units, roles, groups, and what its agreements declare. */
export async function arrange(tx: Tx, today: number): Promise<void> {
  const by = 'thea';
  // Made-up holidays of the region: the day of the first rope, the days between the seasons.
  const number = Math.floor(today / day);
  const holidays = [
    { day: dayOfNumber(number + 10), name: 'Day of the first rope' },
    { day: dayOfNumber(number + 24), name: 'Between the seasons' },
    { day: dayOfNumber(number + 25), name: 'Between the seasons' },
  ];
  await saveCalendar(tx, { ...usualCalendar, id: 'house', name: 'House', holidays, usual: true }, by);
  const saturdays = usualCalendar.week.map((hours, i) => (i === 5 ? [{ from: 450, to: 720 }] : hours));
  await saveCalendar(tx, { id: 'summit', name: 'Summit crew', week: saturdays, holidays, usual: false }, by);
  for (const [id, name, lead, deputy, people] of units) {
    await saveUnit(tx, { id, name, lead, deputy }, by);
    for (const person of people)
      await placePerson(tx, { person, unit: id, calendar: ['yuki', 'caspian'].includes(person) ? 'summit' : null }, by);
  }
  for (const [id, name, person] of roles) await saveOffice(tx, { id, name, person }, by);
  for (const [id, name, members] of groups) await saveGroup(tx, { id, name, members }, by);
  const agreement = (await documentTypes(tx)).find((type) => type.code === 'AGR');
  if (!agreement) return;
  const facts = [
    fact('amount', 'Amount', 'amount', { least: 0 }),
    fact('party', 'Other party', 'party'),
    fact('framework', 'Under a framework agreement', 'yesNo', { standard: { kind: 'yesNo', yes: false } }),
  ];
  const details = [
    fact('law', 'Governing law', 'choice', { choices: ['Norway', 'Germany', 'Other'] }),
    fact('ends', 'Ends on', 'date'),
  ];
  await describeDocumentType(tx, { ...agreement, facts, details, custodian: 'dalia', added: false }, by);
}
