import type { PayloadHash } from '../circulation/run/shapes';
import type { Instant } from '../time/instant';
import type { Json } from '../trail/canonical';

interface Recorded<T extends string, D> {
  readonly type: T;
  readonly at: Instant;
  readonly actor: string;
  readonly onBehalfOf: null;
  readonly data: D;
}

/** What of an organization is arranged: who belongs where, and by which rules and calendars it works. */
export type OrganizationPart =
  /** Who is a member, with which rights and on which clock; whoever has left is none. */
  'member' | 'unit' | 'group' | 'role' | 'calendar' | 'rule' | 'place' | 'facts' | 'details' | 'absence' | 'reminders';

/** What is done to people and document types of an organization; the events of its administration stream. */
export type AdministrationEvent =
  /** Name, job title, company before and after; kept beside the event, so that they can be erased. */
  | Recorded<'person.described', { readonly person: string; readonly before: PayloadHash; readonly after: PayloadHash }>
  /** An administrator saw the address by which somebody gets in, and so could have used it. */
  | Recorded<'access.copied', { readonly person: string; readonly purpose: 'invitation' | 'password' }>
  /** What it was before and is now; null where there was or is none. */
  | Recorded<
      'organization.changed',
      { readonly part: OrganizationPart; readonly id: string; readonly before: Json; readonly after: Json }
    >
  | Recorded<'password.set', { readonly person: string; readonly how: 'invitation' | 'password' | 'own' }>
  | Recorded<
      'documentType.described',
      {
        readonly code: string;
        readonly name: string;
        readonly scheme: string;
        readonly active: boolean;
        readonly marginLine: boolean;
      }
    >;

export const administrationEventVersions: Readonly<Record<AdministrationEvent['type'], number>> = {
  'person.described': 1,
  'access.copied': 1,
  'organization.changed': 1,
  'password.set': 1,
  'documentType.described': 1,
};
