import type { Circulation } from '../circulation/run/state';
import { groupTasks } from '../circulation/telling/tasks';

/** Who acts: a member signed in, an outside person through the link of one seat, the system itself, or nobody. */
export type Actor =
  | {
      readonly kind: 'member';
      readonly person: string;
      readonly roles: readonly Role[];
      /** What the token is for by which they act, within their own rights; not there where they act themselves. */
      readonly scopes?: readonly Scope[];
    }
  | {
      readonly kind: 'link';
      readonly person: string;
      readonly circulation: string;
      readonly seat: string;
      readonly epoch: number;
    }
  | { readonly kind: 'system' }
  | { readonly kind: 'nobody' };

/** What a token may be for. */
export type Scope = 'read' | 'start' | 'steer';

export type Role = 'administrator' | 'controller';

export type Action =
  | 'session.own'
  | 'desk.read'
  | 'people.read'
  | 'people.manage'
  | 'people.addOutside'
  | 'types.manage'
  | 'organization.manage'
  | 'unit.manage'
  | 'register.read'
  | 'record.read'
  | 'record.create'
  | 'record.describe'
  | 'change.start'
  | 'draft.read'
  | 'draft.write'
  | 'circulation.begin'
  | 'circulation.read'
  | 'circulation.steer'
  | 'circulation.value'
  | 'circulation.act'
  | 'circulation.comment'
  | 'seat.act'
  | 'post.read'
  | 'demo.use';

export type Subject =
  | { readonly kind: 'organization' }
  | { readonly kind: 'record'; readonly owner: string; readonly controller: string | null }
  | {
      readonly kind: 'circulation';
      readonly id: string;
      readonly controller: string;
      readonly author: string;
      readonly involved: readonly string[];
      /** Who sees and steers it because they lead the unit of its document; nobody unless a rule says so. */
      readonly leads: readonly string[];
    }
  | { readonly kind: 'draft'; readonly controller: string; readonly author: string }
  | { readonly kind: 'unit'; readonly lead: string | null; readonly deputy: string | null; readonly there: boolean }
  | { readonly kind: 'demo'; readonly on: boolean };

/** Which circulations an actor sees in lists; becomes a condition in SQL. */
type Visibility =
  | { readonly kind: 'none' }
  | { readonly kind: 'all' }
  | { readonly kind: 'involving'; readonly person: string };

/** The one table of rights: for each action, who may do it to which subject. */
const table: { readonly [A in Action]: (actor: Actor, subject: Subject) => boolean } = {
  'session.own': isMember,
  'desk.read': isMember,
  'people.read': isMember,
  'people.manage': (actor) => has(actor, 'administrator'),
  'people.addOutside': isMember,
  'types.manage': (actor) => has(actor, 'administrator'),
  'organization.manage': (actor) => has(actor, 'administrator'),
  // A lead arranges their own unit, and only an administrator makes one.
  'unit.manage': (actor, subject) =>
    subject.kind === 'unit' &&
    actor.kind === 'member' &&
    (has(actor, 'administrator') || (subject.there && [subject.lead, subject.deputy].includes(actor.person))),
  'register.read': isMember,
  'record.read': (actor, subject) => subject.kind === 'record' && actor.kind === 'member',
  'record.create': isMember,
  // The owner completes and corrects their own document, and so does whoever controls the change in progress.
  'record.describe': (actor, subject) =>
    subject.kind === 'record' &&
    actor.kind === 'member' &&
    (has(actor, 'controller') || actor.person === subject.owner || actor.person === subject.controller),
  'change.start': (actor) => has(actor, 'controller'),
  'draft.read': (actor, subject) =>
    subject.kind === 'draft' &&
    actor.kind === 'member' &&
    (actor.person === subject.author || actor.person === subject.controller),
  'draft.write': (actor, subject) =>
    subject.kind === 'draft' && actor.kind === 'member' && actor.person === subject.author,
  // Every member may send a file of their own, which makes its document and begins its circulation.
  'circulation.begin': isMember,
  'circulation.read': (actor, subject) =>
    subject.kind === 'circulation' && covers(visibilityOf(actor, 'circulation.read'), subject),
  'circulation.steer': (actor, subject) =>
    subject.kind === 'circulation' &&
    actor.kind === 'member' &&
    (actor.person === subject.controller || subject.leads.includes(actor.person)),
  // Its author knows the values of what they write.
  'circulation.value': (actor, subject) =>
    subject.kind === 'circulation' &&
    actor.kind === 'member' &&
    [subject.controller, subject.author, ...subject.leads].includes(actor.person),
  'circulation.act': (actor, subject) =>
    subject.kind === 'circulation' && actor.kind === 'member' && subject.involved.includes(actor.person),
  'circulation.comment': (actor, subject) =>
    subject.kind === 'circulation' &&
    actor.kind === 'member' &&
    covers(visibilityOf(actor, 'circulation.read'), subject),
  'seat.act': (actor, subject) =>
    subject.kind === 'circulation' && actor.kind === 'link' && actor.circulation === subject.id,
  'post.read': inDemo,
  'demo.use': inDemo,
};

function inDemo(actor: Actor, subject: Subject): boolean {
  return subject.kind === 'demo' && subject.on && actor.kind === 'member';
}

function isMember(actor: Actor): boolean {
  return actor.kind === 'member';
}

function has(actor: Actor, role: Role): boolean {
  return actor.kind === 'member' && actor.roles.includes(role);
}

/** Whether the actor may do the action to the subject. Total: what the table does not grant is refused. */
export function may(actor: Actor, action: Action, subject: Subject): boolean {
  return table[action](actor, subject);
}

/**
 * Whether somebody may put an operation at all, whatever their rights: a person any, a token the public ones of its scopes.
 * `scope` is that of a public operation; null for all others.
 */
export function inScope(actor: Actor, scope: Scope | null): boolean {
  if (actor.kind !== 'member' || !actor.scopes) return true;
  return scope !== null && actor.scopes.includes(scope);
}

/** Which circulations (and drafts with them) an actor sees in lists. Agrees with `may` on each of them. */
export function visibilityOf(actor: Actor, action: 'circulation.read'): Visibility {
  if (actor.kind !== 'member' || action !== 'circulation.read') return { kind: 'none' };
  return actor.roles.includes('controller') ? { kind: 'all' } : { kind: 'involving', person: actor.person };
}

/** Whether what is visible holds a circulation. */
export function covers(
  visible: Visibility,
  subject: { readonly involved: readonly string[]; readonly leads: readonly string[] },
): boolean {
  if (visible.kind === 'all') return true;
  return visible.kind === 'involving' && [...subject.involved, ...subject.leads].includes(visible.person);
}

/**
 * The people a circulation concerns: its controller and author, everybody who has been asked and still holds the
 * seat, and whoever decided, and whoever got a copy. Somebody whose seat was given to another is no longer among them. A
 * group any member of which may act stands as `group:` and its id.
 */
export function involvedIn(state: Circulation): string[] {
  const people = new Set([state.controller, ...state.formerControllers, state.author]);
  const decided = new Set(state.decisions.map((decision) => decision.seat));
  // Whoever an amendment took out of the route is concerned no more than whoever was replaced.
  for (const seat of state.seats.values())
    if (seat.gone !== 'removed' && (seat.status !== 'idle' || decided.has(seat.id))) {
      for (const { person } of seat.holders) people.add(person);
      if (seat.group !== null) people.add(groupTasks(seat.group));
    }
  for (const { to, status } of state.copies.values())
    if (status === 'sent') for (const { person } of to) people.add(person);
  for (const decision of state.decisions)
    if (!state.seats.get(decision.seat)?.barred.includes(decision.by)) people.add(decision.by);
  return [...people].sort();
}
