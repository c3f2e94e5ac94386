import { isFormula, type Table } from '../formats/csv';
import { isZone } from '../time/zone';

/**
 * People, units and groups as tables: each line is checked against what is there before anything is written. A line says
 * what it would do, or why it cannot.
 */
export type TableKind = 'people' | 'units' | 'groups';

export type LineFault =
  | 'name-missing'
  | 'name-long'
  | 'email-unfit'
  | 'formula'
  | 'twice'
  | 'unknown-unit'
  | 'unknown-calendar'
  | 'unknown-person'
  | 'unknown-zone'
  | 'deputy-is-lead'
  | 'outside-here';

export interface CheckedLine {
  readonly line: number;
  /** The values of the wanted columns. */
  readonly values: Readonly<Record<string, string>>;
  readonly faults: readonly { readonly column: string; readonly why: LineFault }[];
  readonly does: 'add' | 'change' | 'nothing';
}

/** What is there already: people by email address, units, calendars and groups by name; all in lower case. */
export interface Known {
  readonly people: ReadonlyMap<
    string,
    {
      readonly id: string;
      readonly name: string;
      readonly work: string;
      readonly unit: string;
      readonly zone: string;
      readonly calendar: string;
      readonly kind: 'member' | 'outside';
    }
  >;
  readonly units: ReadonlyMap<
    string,
    { readonly id: string; readonly name: string; readonly lead: string; readonly deputy: string }
  >;
  readonly calendars: ReadonlyMap<string, { readonly id: string }>;
  readonly groups: ReadonlyMap<
    string,
    { readonly id: string; readonly name: string; readonly members: readonly string[] }
  >;
}

/** The columns of each table: what they are called in the file, what they mean, and whether they have to be there. */
export const tableColumns: {
  readonly [K in TableKind]: readonly {
    readonly key: string;
    readonly heads: readonly string[];
    readonly needed: boolean;
  }[];
} = {
  people: [
    { key: 'name', heads: ['name', 'full name'], needed: true },
    { key: 'email', heads: ['email', 'e-mail', 'email address', 'mail'], needed: true },
    { key: 'work', heads: ['job title', 'work', 'function', 'title'], needed: false },
    { key: 'unit', heads: ['unit', 'department', 'team'], needed: false },
    { key: 'calendar', heads: ['calendar', 'working calendar'], needed: false },
    { key: 'zone', heads: ['time zone', 'zone', 'timezone'], needed: false },
  ],
  units: [
    { key: 'name', heads: ['unit', 'name', 'department'], needed: true },
    { key: 'lead', heads: ['lead', 'lead email'], needed: false },
    { key: 'deputy', heads: ['deputy', 'deputy email'], needed: false },
  ],
  groups: [
    { key: 'name', heads: ['group', 'name'], needed: true },
    { key: 'member', heads: ['member', 'email', 'member email'], needed: true },
  ],
};

const address = /^[^\s@<>,;:"]+@[^\s@<>,;:"]+\.[^\s@<>,;:"]+$/;

/** The lines of a table checked one by one, or the wanted columns that it does not have. */
export function checkedTable(
  kind: TableKind,
  table: Table,
  known: Known,
): { readonly lines: readonly CheckedLine[] } | { readonly missing: readonly string[] } {
  const columns = tableColumns[kind].map((column) => ({
    ...column,
    at: column.heads.map((head) => table.heads.indexOf(head)).find((at) => at >= 0) ?? -1,
  }));
  const missing = columns.filter((column) => column.needed && column.at < 0).map((column) => column.heads[0] as string);
  if (missing.length > 0) return { missing };
  const met = new Set<string>();
  const lines = table.rows.map(({ line, cells }): CheckedLine => {
    const values: Record<string, string> = {};
    for (const { key, at } of columns) if (at >= 0) values[key] = (cells[at] ?? '').normalize('NFC');
    const faults: { column: string; why: LineFault }[] = [];
    const fault = (column: string, why: LineFault) => faults.push({ column, why });
    for (const [column, value] of Object.entries(values)) if (isFormula(value)) fault(column, 'formula');
    const name = values.name ?? '';
    if (name.length < 2) fault('name', 'name-missing');
    else if (name.length > 120) fault('name', 'name-long');
    const key = keyOf(kind, values);
    if (met.has(key)) fault(kind === 'people' ? 'email' : 'name', 'twice');
    met.add(key);
    const does = checks[kind](values, known, fault);
    return { line, values, faults, does };
  });
  return { lines };
}

function keyOf(kind: TableKind, values: Readonly<Record<string, string>>): string {
  const parts = kind === 'people' ? [values.email] : kind === 'units' ? [values.name] : [values.name, values.member];
  return parts.map((part) => (part ?? '').toLowerCase()).join('\n');
}

type Check = (
  values: Readonly<Record<string, string>>,
  known: Known,
  fault: (column: string, why: LineFault) => void,
) => CheckedLine['does'];

const checks: { readonly [K in TableKind]: Check } = {
  people: (values, known, fault) => {
    const email = (values.email ?? '').toLowerCase();
    if (!address.test(email) || email.length > 254) fault('email', 'email-unfit');
    if (values.unit && !known.units.has(values.unit.toLowerCase())) fault('unit', 'unknown-unit');
    if (values.calendar && !known.calendars.has(values.calendar.toLowerCase())) fault('calendar', 'unknown-calendar');
    if (values.zone && !isZone(values.zone)) fault('zone', 'unknown-zone');
    const there = known.people.get(email);
    if (!there) return 'add';
    if (there.kind === 'outside') fault('email', 'outside-here');
    // A column that is not there, or a cell left empty, changes nothing.
    const keys = ['name', 'work', 'unit', 'calendar', 'zone'] as const;
    const differs = keys.some((key) => values[key] && values[key].toLowerCase() !== there[key].toLowerCase());
    return differs ? 'change' : 'nothing';
  },
  units: (values, known, fault) => {
    for (const column of ['lead', 'deputy'] as const) {
      const email = (values[column] ?? '').toLowerCase();
      if (email && known.people.get(email)?.kind !== 'member') fault(column, 'unknown-person');
    }
    if (values.lead && values.lead.toLowerCase() === values.deputy?.toLowerCase()) fault('deputy', 'deputy-is-lead');
    const there = known.units.get((values.name ?? '').toLowerCase());
    if (!there) return 'add';
    const differs = (['lead', 'deputy'] as const).some(
      (key) => values[key] && values[key].toLowerCase() !== there[key],
    );
    return differs ? 'change' : 'nothing';
  },
  groups: (values, known, fault) => {
    const email = (values.member ?? '').toLowerCase();
    if (known.people.get(email)?.kind !== 'member') fault('member', 'unknown-person');
    const there = known.groups.get((values.name ?? '').toLowerCase());
    if (!there) return 'add';
    return there.members.includes(email) ? 'nothing' : 'change';
  },
};
