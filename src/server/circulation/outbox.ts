import type { Context } from '@/core/circulation/run/context';
import type { Circulation } from '@/core/circulation/run/state';
import { type Message, messagesOf } from '@/core/circulation/telling/messages';
import { usualPreferences, type Way } from '@/core/circulation/telling/preferences';
import { finalsWanted, freezeWanted, releaseWanted } from '@/core/circulation/telling/tasks';
import { waysOf } from '@/core/circulation/telling/telling';
import type { Tx } from '../db/connect';
import { enqueue } from '../jobs/queue';
import { gatheredNames } from '../mail/words';
import type { Acted } from './act';

/** How a message reaches its person: somebody outside by mail, a member as they chose. */
function waysTo({ template, person }: Message, { people, following }: Context): readonly Way[] {
  const facts = people.get(person);
  if (facts?.outside) return ['mail'];
  return waysOf(template, { ...usualPreferences, ...facts?.tells }, following.get(person) ?? 'usual');
}

/** What follows from events: messages to people and files to make, each left to a job in the same transaction. */
export function sendOut(
  tx: Tx,
  circulation: string,
  before: Circulation | null,
  acted: Acted,
  context: Context,
  gather: boolean,
): void {
  const { state } = acted;
  for (const message of messagesOf(before, acted, context)) {
    const together = message.gather || (gather && message.template in gatheredNames);
    const ways = waysTo(message, context);
    if (ways.length === 0) continue;
    enqueue(tx, 'mail', { ...message, circulation, ways, ...(together ? { gather: true } : {}) });
  }
  const frozenBefore = before ? freezeWanted(before).map((wanted) => JSON.stringify(wanted)) : [];
  for (const wanted of freezeWanted(state))
    if (!frozenBefore.includes(JSON.stringify(wanted))) enqueue(tx, 'freeze', { circulation, ...wanted });
  if (finalsWanted(state) && !(before && finalsWanted(before))) enqueue(tx, 'derive', { circulation });
  if (releaseWanted(state) && !(before && releaseWanted(before))) enqueue(tx, 'release', { circulation });
}
