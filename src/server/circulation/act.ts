import type { Command } from '@/core/circulation/commands';
import { decide } from '@/core/circulation/decide';
import { type CirculationEvent, system } from '@/core/circulation/events';
import { fold } from '@/core/circulation/evolve';
import { type Refusal, refusal } from '@/core/circulation/refusal';
import { type Circulation, holdersOf, seatAt } from '@/core/circulation/state';
import { personNamed } from '../admin/people';
import type { Tx } from '../db/connect';
import { append, hint, readStream } from '../events/streams';
import { enqueue, type JobData, type MailTemplate } from '../jobs/queue';
import { Refused } from '../refused';
import { circulationStream } from './load';
import { project, rowsOf } from './project';

export interface Acted {
  readonly state: Circulation;
  readonly events: readonly CirculationEvent[];
}

/**
 * Puts one command to a circulation: reads its events, decides, appends, writes the read tables, leaves what follows
 * to jobs, and tells everybody who looks. Throws Refused with the engine's sentence when it is refused.
 */
export async function act(tx: Tx, id: string, command: Command, actor: string): Promise<Acted> {
  const stream = await readStream<CirculationEvent>(tx, circulationStream(id));
  const before = fold(stream.events);
  const decided = decide(before, command, { now: tx.now, actor });
  if (!decided.ok) throw await toPerson(tx, decided.refusal);
  if (decided.events.length === 0) return decided;
  await append(tx, stream, decided.events);
  await project(tx, before && rowsOf(id, before), rowsOf(id, decided.state));
  await follow(tx, id, before, decided);
  hint(tx, `circulation ${id}`);
  return decided;
}

/** A refusal with people and outcomes as a reader knows them; the engine knows only ids. */
async function toPerson(tx: Tx, { code, sentence, facts }: Refusal): Promise<Refused> {
  if (code !== 'already-decided') return new Refused(code, sentence, facts);
  const person = await personNamed(tx, String(facts.by));
  const named = refusal(code, {
    by: person?.name ?? 'somebody else',
    outcome: String(facts.outcome).replace(/([A-Z])/g, (letter) => ` ${letter.toLowerCase()}`),
  });
  return new Refused(code, named.sentence, named.facts);
}

/** The next number for a circulation: C-1, C-2, ... */
export async function nextCirculationNumber(tx: Tx): Promise<string> {
  const [row] = await tx.sql<{ value: number }[]>`
    insert into counter (organization, name, value) values (${tx.organization}, 'circulation', 1)
    on conflict (organization, name) do update set value = counter.value + 1 returning value`;
  return `C-${row?.value}`;
}

/** What follows from events: messages to people and files to make, each left to a job. */
async function follow(
  tx: Tx,
  circulation: string,
  before: Circulation | null,
  { state, events }: Acted,
): Promise<void> {
  const mail = (template: MailTemplate, person: string, more: Partial<JobData['mail']> = {}) =>
    enqueue(tx, 'mail', { template, person, circulation, ...more });
  const toController = (template: MailTemplate, actor: string, more: Partial<JobData['mail']> = {}) =>
    actor === state.controller ? Promise.resolve() : mail(template, state.controller, more);

  for (const event of events) {
    switch (event.type) {
      case 'seat.asked': {
        const { seat, epoch, holder } = event.data;
        await mail('asked', holder, { seat, epoch });
        break;
      }
      case 'seat.delegated':
        await mail('asked', event.data.to, { seat: event.data.seat, epoch: event.data.epoch, note: event.data.note });
        break;
      case 'seat.reassigned': {
        const { seat, from, to, epoch, note } = event.data;
        const asked = seatAt(state, seat)?.status === 'asked';
        const had = before && seatAt(before, seat)?.status !== 'idle';
        if (had) await mail('seatMoved', from, { seat });
        if (asked) await mail('asked', to.person, { seat, epoch, note });
        break;
      }
      case 'secondHolder.added':
        if (seatAt(state, event.data.seat)?.status === 'asked')
          await mail('asked', event.data.person, {
            seat: event.data.seat,
            epoch: seatAt(state, event.data.seat)?.epoch ?? 1,
          });
        break;
      case 'seat.reminded':
      case 'seat.extended': {
        const template = event.type === 'seat.reminded' ? 'reminded' : 'extended';
        const seat = seatAt(state, event.data.seat);
        if (seat)
          for (const person of holdersOf(seat)) await mail(template, person, { seat: seat.id, epoch: seat.epoch });
        break;
      }
      case 'seat.decided':
        if (event.data.outcome === 'declined')
          await toController('declined', event.actor, { seat: event.data.seat, note: event.data.note });
        if (event.data.outcome === 'returned') {
          if (event.actor !== state.author)
            await mail('returned', state.author, { seat: event.data.seat, note: event.data.note });
          if (state.author !== state.controller)
            await toController('returned', event.actor, { seat: event.data.seat, note: event.data.note });
        }
        break;
      case 'seat.missed':
        await toController('missed', system, { seat: event.data.seat });
        break;
      case 'stage.held':
        await toController('fieldsWanted', system);
        break;
      case 'version.attached':
        if (before && before.phase !== 'new') await toController('versionIn', event.actor);
        break;
      case 'sealing.began':
        await enqueue(tx, 'derive', { circulation });
        break;
      case 'final.kept':
        await toController('readyForRelease', system);
        break;
      case 'circulation.withdrawn':
        for (const person of askedEver(state))
          if (person !== event.actor) await mail('withdrawn', person, { note: event.data.note });
        break;
      case 'circulation.completed':
        // The notice leaves only now, when the final file has been stored and the revision is current.
        for (const person of concerned(state)) await mail('released', person, {});
        break;
    }
  }
}

/** Everybody who was asked in this circulation and still holds a seat, decided, or wrote it. */
function askedEver(state: Circulation): string[] {
  const people = new Set<string>();
  for (const seat of state.seats)
    if (seat.since !== null || seat.decision !== null) for (const person of holdersOf(seat)) people.add(person);
  if (state.author !== state.controller) people.add(state.author);
  return [...people];
}

/** Whom a release concerns: the controller, the author and everybody whose decision counts in it. */
function concerned(state: Circulation): string[] {
  const people = new Set([state.controller, state.author]);
  for (const seat of state.seats)
    if (seat.status === 'decided') people.add(state.decisions[seat.decision ?? -1]?.by ?? seat.holder);
  return [...people];
}
