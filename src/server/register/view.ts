import { type Actor, may, type Subject } from '@/core/access/may';
import { isSeen, sightOf } from '@/core/access/sight';
import { bareContext } from '@/core/circulation/run/context';
import { type Phase, standing } from '@/core/circulation/run/state';
import { changeInWork, currentRevision, type RecordState } from '@/core/record/record';
import type { FactType } from '@/core/route/facts';
import type { Outcome } from '@/core/route/verbs';
import { pastOf } from '../admin/describePerson';
import { circulationState, recordState } from '../circulation/load';
import { visibleTo } from '../circulation/visible';
import type { Tx } from '../db/connect';
import { noteIn, payloads } from '../events/payloads';
import type { Member } from '../operations/operation';

/** The outcomes by which somebody stands for what is released. */
const approving: readonly Outcome[] = ['approved', 'approvedWithComments', 'signed'];

interface CirculationRow {
  readonly id: string;
  readonly number: string;
  readonly phase: Phase;
  readonly line: string;
  readonly nextDue: number | null;
  readonly stops: number;
  readonly mine: boolean;
}

/** A record as the table of rights sees it. */
export function recordSubject(state: RecordState): Extract<Subject, { kind: 'record' }> {
  return { kind: 'record', owner: state.owner, controller: changeInWork(state)?.controller ?? null };
}

/** A record's page: what is released for everybody; of what is in progress only that it is, but for those it concerns. */
export async function recordView(tx: Tx, record: string, actor: Member) {
  const state = await recordState(tx, record);
  if (!state) return null;
  const visible = await visibleTo(tx, actor);
  const rows = await tx.sql<CirculationRow[]>`
    select c.id, c.number, c.phase, c.line, c.next_due, c.stops,
           true ${visible.where} as mine
    from circulation c
    where c.organization = ${tx.organization} and ${record} = any(c.records) order by c.created desc`;
  const mine = new Set(rows.filter((row) => row.mine).map((row) => row.id));
  const found = await payloads(
    tx,
    state.changes.map((change) => change.reason),
  );
  const change = changeInWork(state);
  const subject = recordSubject(state);
  const sight = sightOf({ kind: 'record', record: state }, actor as Actor, bareContext(tx.now, actor.person));
  const current = currentRevision(state);
  const released = current && (await circulationState(tx, current.circulation));
  const [type] = await tx.sql<{ name: string; details: FactType[] }[]>`
    select name, details from document_type where organization = ${tx.organization} and code = ${state.documentType}`;
  const [unit] = await tx.sql<{ name: string }[]>`
    select name from record_unit where organization = ${tx.organization} and record = ${record}`;
  /** Who approved or signed the current revision: what is released says by whom. */
  const approved = released ? standing(released).filter(({ outcome }) => approving.includes(outcome)) : [];
  const approvers = [...new Map(approved.map(({ by, at }) => [by, { person: by, at }])).values()];
  return {
    record,
    number: state.number,
    title: state.title,
    documentType: state.documentType,
    typeName: type?.name ?? state.documentType,
    approvers,
    /** What was released is told with the names of its time. */
    past: await pastOf(tx, [...approvers.map(({ person }) => person), ...state.revisions.map(({ by }) => by)]),
    reason: noteIn(found, state.changes.find((one) => one.circulation === current?.circulation)?.reason),
    owner: state.owner,
    unit: state.unit,
    /** What its unit is called, its own or its owner's. */
    unitName: unit?.name ?? null,
    details: state.details,
    /** The details that its type declares. */
    detailTypes: type?.details ?? [],
    complete: state.complete,
    created: state.created,
    may: {
      describe: may(actor as Actor, 'record.describe', subject),
      startChange: change === null && may(actor as Actor, 'change.start', { kind: 'organization' }),
    },
    revisions: state.revisions.map(({ files, evidence, ...revision }) => ({
      ...revision,
      files: files.filter(({ file }) => isSeen(sight, file)),
      evidence: evidence !== null && isSeen(sight, evidence) ? evidence : null,
    })),
    changes: state.changes
      .filter((one) => mine.has(one.circulation) || one.state === 'released')
      .map(({ versions, reason, author, controller, ...rest }) => ({
        ...rest,
        // Why a change was made belongs to the released document; who works on one in progress to those it concerns.
        ...(mine.has(rest.circulation) ? { author, controller } : { author: null, controller: null }),
        reason: noteIn(found, reason),
        versions: versions.length,
      })),
    inProgress: change && {
      revision: change.revision,
      since: change.started,
      ...(mine.has(change.circulation)
        ? { change: change.id, circulation: change.circulation, author: change.author }
        : { change: null, circulation: null, author: null }),
    },
    circulations: rows.map(({ mine: _, ...row }) =>
      mine.has(row.id)
        ? { ...row, mine: true as const }
        : { id: null, number: row.number, phase: row.phase, mine: false as const },
    ),
  };
}
