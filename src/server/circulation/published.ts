import Joi from 'joi';
import { may } from '@/core/access/may';
import { isSeen } from '@/core/access/sight';
import type { CirculationEvent } from '@/core/circulation/run/events';
import {
  baseHolder,
  type Circulation,
  closesOf,
  decisionOf,
  dueOf,
  newest,
  stagePlanOf,
} from '@/core/circulation/run/state';
import { historyFor } from '@/core/circulation/telling/history';
import { waitsFor } from '@/core/circulation/telling/tasks';
import type { Tx } from '../db/connect';
import { noteIn, payloads } from '../events/payloads';
import { circulationStream, eventsOf } from '../events/streams';
import { sightInCirculation } from '../files/access';
import { shape } from '../operations/input';
import { type Member, memberOperation, type Public } from '../operations/operation';
import { id } from '../operations/pieces';
import { refuse } from '../refused';
import { circulationSubject, onCirculation } from './claims';
import { circulationState } from './load';

// What programs may ask and do, with answers that are no page's: they change only with their version.

const instant = Joi.number().integer();
const instantOrNone = instant.allow(null);
const textOrNone = Joi.string().allow('', null);

/** An answer in which nothing is left out and nothing else stands. */
const answer = (parts: Readonly<Record<string, Joi.Schema>>) =>
  Joi.object(parts).options({ presence: 'required', allowUnknown: false });

const standing = answer({ phase: Joi.string(), waitsFor: Joi.array().items(Joi.string()) });

/** Acts of whoever steers a circulation answer how it stands then. */
export const steers: Public = { scope: 'steer', version: 1, answer: standing };
/** Beginning a change answers what was begun. */
export const starts: Public = {
  scope: 'start',
  version: 1,
  answer: answer({ change: Joi.string(), circulation: Joi.string() }),
};

/** A question about one circulation, of whoever may read it; what it answers is named beside the circulation. */
function asking<const N extends string, O>(
  name: N,
  answers: Readonly<Record<string, Joi.Schema>>,
  run: (tx: Tx, circulation: string, actor: Member) => Promise<O>,
) {
  return memberOperation({
    name: `circulation.${name}` as const,
    kind: 'query',
    input: shape({ circulation: id }),
    claim: onCirculation('circulation.read'),
    public: { scope: 'read', version: 1, answer: answer({ circulation: Joi.string(), ...answers }) },
    run: async (tx, { circulation }, actor) => ({ circulation, ...(await run(tx, circulation, actor)) }),
  });
}

async function stateFor(tx: Tx, circulation: string): Promise<Circulation> {
  return (await circulationState(tx, circulation)) ?? refuse('not-found');
}

export const publishedOperations = [
  asking(
    'state',
    {
      number: Joi.string(),
      records: Joi.array().items(Joi.string()),
      phase: Joi.string(),
      round: Joi.number().integer(),
      version: Joi.number().integer().allow(null),
      controller: Joi.string(),
      author: Joi.string(),
      created: instant,
      sent: instantOrNone,
      ended: instantOrNone,
      due: instantOrNone,
      closes: instantOrNone,
      paused: instantOrNone,
      closed: instantOrNone,
      waitsFor: Joi.array().items(Joi.string()),
      revisions: Joi.array().items(answer({ record: Joi.string(), revision: Joi.string() })),
      seats: Joi.array().items(
        answer({
          seat: Joi.string(),
          stage: Joi.string(),
          verb: Joi.string(),
          person: textOrNone,
          outside: Joi.boolean(),
          status: Joi.string(),
          due: instantOrNone,
          closes: instantOrNone,
          outcome: textOrNone,
          at: instantOrNone,
        }),
      ),
    },
    async (tx, circulation) => {
      const state = await stateFor(tx, circulation);
      const { number, records, phase, round, controller, author, created, sent, ended, due, closes, paused, closed } =
        state;
      return {
        ...{ number, records, phase, round, controller, author, created, sent, ended, due, closes, paused, closed },
        version: newest(state)?.number ?? null,
        waitsFor: waitsFor(state),
        revisions: state.revisions.map(({ record, revision }) => ({ record, revision })),
        seats: [...state.seats.values()]
          .filter((seat) => !seat.gone)
          .map((seat) => {
            const decision = decisionOf(state, seat);
            const holder = baseHolder(seat);
            return {
              seat: seat.id,
              stage: seat.stage,
              verb: stagePlanOf(state, seat).verb,
              person: holder?.person ?? null,
              outside: holder?.outside ?? false,
              status: seat.status,
              due: dueOf(state, seat),
              closes: closesOf(state, seat),
              outcome: decision?.outcome ?? null,
              at: decision?.at ?? null,
            };
          }),
      };
    },
  ),

  asking(
    'trail',
    {
      lines: Joi.array().items(
        answer({
          sequence: Joi.number().integer(),
          at: instant,
          type: Joi.string(),
          actor: Joi.string(),
          onBehalfOf: textOrNone,
          note: textOrNone,
        }),
      ),
    },
    async (tx, circulation, actor) => {
      const rights = await circulationSubject(tx, circulation, await stateFor(tx, circulation));
      const events = await eventsOf<CirculationEvent>(tx, circulationStream(circulation));
      const lines = historyFor(events, may(actor, 'circulation.steer', rights));
      const found = await payloads(
        tx,
        lines.map(({ note }) => note),
      );
      return {
        lines: lines.map(({ sequence, at, type, actor: by, onBehalfOf, note }) => ({
          ...{ sequence, at, type, actor: by, onBehalfOf },
          note: noteIn(found, note),
        })),
      };
    },
  ),

  asking(
    'files',
    {
      files: Joi.array().items(
        answer({
          id: Joi.string(),
          sha256: Joi.string().hex().length(64),
          name: Joi.string(),
          role: Joi.string(),
          record: Joi.string().allow(''),
          version: Joi.number().integer(),
          mediaType: Joi.string(),
          bytes: Joi.number().integer(),
          download: textOrNone,
        }),
      ),
    },
    async (tx, circulation, actor) => ({ files: await filesFor(tx, circulation, actor) }),
  ),

  asking(
    'values',
    {
      values: Joi.array().items(
        answer({ id: Joi.string(), name: Joi.string().allow(''), value: Joi.object().unknown() }),
      ),
    },
    async (tx, circulation) => {
      const { facts, factNames } = await stateFor(tx, circulation);
      const values = Object.entries(facts).map(([of, value]) => ({ id: of, name: factNames[of] ?? '', value }));
      return { values };
    },
  ),
] as const;

/** The files of every version, those that this member sees, and what keeps each from being had; null where nothing does. */
async function filesFor(tx: Tx, circulation: string, actor: Member) {
  const state = await stateFor(tx, circulation);
  const sight = await sightInCirculation(tx, circulation, state, actor);
  return state.versions.flatMap(({ number, files }) =>
    files
      .filter(({ file }) => isSeen(sight, file))
      .map(({ id: of, file, name, role, record, mediaType, bytes }) => ({
        ...{ id: of, sha256: file, name, role, record, version: number, mediaType, bytes },
        download: sight.get(file)?.download ?? null,
      })),
  );
}
