'use client';

import { Box, chakra } from '@chakra-ui/react';
import type { DraftView } from '@/server/drafting/view';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { Fault } from '../parts/form';
import { draftWords as words } from './words';

/** Under the title: who returned it and why, who asks for it, or why it can only be read. */
export function HowItStands({ data }: { readonly data: DraftView }) {
  const { name } = usePeople();
  const times = useTimes();
  if (data.returned)
    return (
      <>
        <chakra.span color="copperText" fontWeight={600}>
          {words.returned(name(data.returned.by), times.moment(data.returned.at))}
        </chakra.span>{' '}
        “<bdi>{data.returned.note}</bdi>”
      </>
    );
  const asked = data.author === data.controller ? '' : words.asked(name(data.controller));
  return (
    <chakra.span color="quiet">
      {data.writes ? { ...words.phases, new: asked, rework: asked }[data.phase] : words.reader}
    </chakra.span>
  );
}

/** Versions on their way: being made, kept, submitted, or failed. */
export function Progress({
  data,
  rendering,
  kept,
}: {
  readonly data: DraftView;
  readonly rendering: DraftView['versions'][number] | undefined;
  readonly kept: number | null;
}) {
  const last = data.versions[data.versions.length - 1];
  return (
    <>
      {last?.pages === 'failed' && <Fault error={{ message: words.fault(last.number) }} />}
      {rendering ? (
        <Box role="status" bg="pineSoft" px="14px" py="8px" borderRadius="4px" mb="8px">
          {(rendering.submits ? words.renderingToSubmit : words.rendering)(rendering.number)}
        </Box>
      ) : (
        <>
          {kept !== null && (
            <Box role="status" color="quiet">
              {words.kept(kept)}
            </Box>
          )}
          {data.submitted !== null && !data.returned && (
            <Box role="status" color="quiet" pb="6px">
              {words.submitted(data.submitted)}
            </Box>
          )}
        </>
      )}
    </>
  );
}
