import { useEffect } from 'react';
import type { Needs } from '@/core/circulation/acts/act';
import type { Outcome } from '@/core/route/verbs';

/**
 * What the holder of a seat may respond, on whichever page: by the offer. With a comment a yes is approving
 * with comments, where that is offered. What stands open is told as seen, once for
 * each content.
 */
export function useResponding(
  needs: Needs | null,
  comment: string,
  unseen: string | undefined,
  see: (scope: string) => void,
): {
  readonly positive: Outcome;
  readonly offered: (outcome: Outcome) => boolean;
  /** Whether somebody is to be named first. */
  readonly unnamed: boolean;
  readonly notBefore: Needs['notBefore'];
} {
  useEffect(() => {
    if (unseen) see(unseen);
  }, [unseen, see]);
  const outcomes = needs?.outcomes ?? [];
  const spoken = comment.trim() !== '' && outcomes.includes('approvedWithComments');
  return {
    positive: spoken ? 'approvedWithComments' : (needs?.yes ?? 'done'),
    offered: (outcome: Outcome) => outcomes.includes(outcome),
    unnamed: (needs?.unnamed?.length ?? 0) > 0,
    notBefore: needs?.notBefore,
  };
}
