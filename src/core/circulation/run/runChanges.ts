import { alike, type Json } from '../../trail/canonical';
import type { Change, RunChanges } from './shapes';
import type { Circulation } from './state';

/** What has become of the parts of a route. */
type Runs = Pick<Circulation, 'blocks' | 'stages' | 'seats' | 'copies'>;

/** What is another in one set of runs than in an earlier one. Runs are never removed, only marked. */
export function changesBetween(before: Runs, after: Runs): RunChanges {
  return {
    blocks: changed(before.blocks, after.blocks),
    stages: changed(before.stages, after.stages),
    seats: changed(before.seats, after.seats),
    copies: changed(before.copies, after.copies),
  };
}

function changed<R extends { readonly id: string }>(
  before: ReadonlyMap<string, R>,
  after: ReadonlyMap<string, R>,
): Change<R>[] {
  return [...after.values()].flatMap((run) => {
    const was = before.get(run.id);
    if (!was) return [run];
    if (was === run) return [];
    const others = (Object.keys(run) as (keyof R)[]).filter((key) => !alike(was[key] as Json, run[key] as Json));
    if (others.length === 0) return [];
    return [{ id: run.id, ...Object.fromEntries(others.map((key) => [key, run[key]])) } as Change<R>];
  });
}
