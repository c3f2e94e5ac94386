'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { isPositive } from '@/core/route/verbs';
import { momentIn } from '@/core/time/zone';
import type { SeatView } from '@/server/signing/view';
import { useTell } from '../data/use';
import { SideButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { signingWords } from './words';

const words = signingWords.receipt;

/** What a link shows when there is nothing to do through it: how things stand, and the copy once there is one. */
export function Receipt({
  view,
  base,
  fileUrl,
}: {
  readonly view: SeatView;
  readonly base: string;
  readonly fileUrl: (hash: string) => string;
}) {
  const ask = useTell('seat.askForLink', { base });
  const zone = view.me?.zone ?? 'UTC';
  const when = (instant: number) => `${momentIn(zone, instant, Date.now())} (${zone})`;
  const { decision } = view;
  const said =
    decision?.outcome === 'signed'
      ? words.signed
      : decision?.outcome === 'declined'
        ? words.declined
        : decision
          ? words.done
          : view.phase === 'withdrawn'
            ? words.withdrawn
            : view.status === 'missed'
              ? words.missed
              : view.phase === 'rework'
                ? words.rework
                : view.status === 'released'
                  ? words.notNeeded
                  : words.waiting;
  return (
    <Flex direction="column" align="center" justify="center" minH="70vh" px="24px" textAlign="center" gap="8px">
      <Box color="quiet">
        {view.number} · {view.organization}
      </Box>
      <chakra.h1 fontSize="20px">{view.title}</chakra.h1>
      <Box fontSize="16px" fontWeight={600} mt="10px">
        {said}
      </Box>
      {decision && <Box color="quiet">{when(decision.at)}</Box>}
      {view.phase !== 'completed' && view.phase !== 'withdrawn' && decision && view.progress.of > 1 && (
        <Box color="quiet">{words.progress(view.progress.done, view.progress.of)}</Box>
      )}
      {view.copies?.open && (
        <Box mt="14px">
          {view.copies.files.map((copy) => (
            <chakra.span
              key={copy.file}
              display="inline-block"
              m="4px"
              bg="iris"
              color="onIris"
              fontWeight={600}
              borderRadius="6px"
              px="18px"
              py="11px"
              asChild
            >
              <a href={`${fileUrl(copy.file)}?download`}>
                {(view.copies?.files.length ?? 0) > 1 ? words.copyOf(copy.name) : words.copy}
              </a>
            </chakra.span>
          ))}
          <Box color="quiet" mt="8px" fontSize="13px">
            {words.copyUntil(when(view.copies.until))}
          </Box>
        </Box>
      )}
      {view.copies && !view.copies.open && <Box color="quiet">{words.copyOver}</Box>}
      {decision && view.phase === 'withdrawn' && <Box maxW="420px">{words.withdrawn}</Box>}
      {decision && isPositive(decision.outcome) && view.phase !== 'completed' && view.phase !== 'withdrawn' && (
        <Box maxW="420px">{words.copyLater}</Box>
      )}
      {base !== '' && (view.status === 'missed' || (view.copies && !view.copies.open)) && (
        <SideButton mt="14px" busy={ask.isPending} disabled={ask.isSuccess} onClick={() => ask.mutate({})}>
          {ask.isSuccess ? words.asked : words.ask}
        </SideButton>
      )}
      <Fault error={ask.error} />
    </Flex>
  );
}
