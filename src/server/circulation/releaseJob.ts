import { system } from '@/core/circulation/run/events';
import { releaseWanted } from '@/core/circulation/telling/tasks';
import { inOrganization } from '../db/connect';
import type { JobData } from '../jobs/queue';
import { prepareRelease } from '../signing/evidence';
import { release } from './endings';
import { circulationState } from './load';

/** Releases a circulation that was sent to be released by itself, if nothing is open in it any more. */
export async function releaseByItself(
  organization: string,
  { circulation }: JobData['release'],
  options: { at?: number | undefined },
): Promise<void> {
  const prepared = await prepareRelease(organization, circulation, system, options);
  if (!prepared) return;
  await inOrganization(
    organization,
    async (tx) => {
      const state = await circulationState(tx, circulation);
      if (state && releaseWanted(state)) await release(tx, circulation, system, prepared);
    },
    options,
  );
}
