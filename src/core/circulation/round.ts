import { isPositive, type RoundLine, type RoundReason } from './events';
import { type Circulation, currentScope, decisionOf, type RoundPlan, type SeatState, stageOf } from './state';

/**
 * Who would be kept and who asked again if a next round began now. A decision is compared with what its seat saw
 * when it decided, never with the version before this one, so a change and its undoing keeps it.
 */
export function proposedLines(state: Circulation): RoundLine[] {
  const scope = currentScope(state);
  const lines: RoundLine[] = [];
  for (const seat of state.seats) {
    const why = reasonFor(state, seat, scope);
    if (why) lines.push({ seat: seat.id, decision: seat.decision, keep: why === 'unchanged', why });
  }
  return lines;
}

function reasonFor(state: Circulation, seat: SeatState, scope: string | null): RoundReason | null {
  const decision = decisionOf(state, seat);
  if (decision) {
    if (decision.outcome === 'returned') return 'returned';
    if (decision.outcome === 'declined') return 'declined';
    return decision.scope === scope ? 'unchanged' : 'changed';
  }
  if (seat.status === 'suspended' || seat.status === 'asked') return 'open';
  if (seat.status === 'missed') return 'missed';
  return null;
}

/** Whether two proposals say the same, whatever their revision. */
export function samePlan(
  a: Pick<RoundPlan, 'version' | 'decisions' | 'lines'>,
  b: Pick<RoundPlan, 'version' | 'decisions' | 'lines'>,
): boolean {
  return (
    a.version === b.version &&
    a.decisions === b.decisions &&
    a.lines.length === b.lines.length &&
    a.lines.every((line, i) => {
      const other = b.lines[i];
      return (
        other !== undefined && line.seat === other.seat && line.why === other.why && line.decision === other.decision
      );
    })
  );
}

/** Whether the decision of a seat may be kept by the controller's choice, and if not, why. */
export function keepable(state: Circulation, seat: SeatState): 'yes' | 'no-decision' | 'signature-changed' {
  const decision = decisionOf(state, seat);
  if (!decision || !isPositive(decision.outcome)) return 'no-decision';
  if (stageOf(state, seat).plan.verb === 'sign' && decision.scope !== currentScope(state)) return 'signature-changed';
  return 'yes';
}
