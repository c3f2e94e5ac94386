import type { Instant } from '../time/instant';
import type { AdministrationEvent } from './events';

/** Who else could have set the password that an account had at a moment, and when they copied the link for it. */
export interface SharedAccess {
  readonly by: string;
  readonly at: Instant;
}

/**
 * Whether somebody else had the link by which the password of an account was set that it had at a moment. A password that
 * its owner changed knowing the one before, or set by a link that nobody copied, is theirs alone.
 */
export function sharedAccessAt(
  events: Iterable<AdministrationEvent>,
  person: string,
  at: Instant,
): SharedAccess | null {
  let copied: SharedAccess | null = null;
  let shared: SharedAccess | null = null;
  for (const event of events) {
    if (event.at > at) break;
    if (event.type === 'access.copied' && event.data.person === person) copied = { by: event.actor, at: event.at };
    if (event.type !== 'password.set' || event.data.person !== person) continue;
    shared = event.data.how === 'own' ? null : copied;
    copied = null;
  }
  return shared;
}
