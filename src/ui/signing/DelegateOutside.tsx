'use client';

import { Box } from '@chakra-ui/react';
import type { SeatView } from '@/server/signing/view';
import { needsOf } from '../circulation/offers';
import { useKeptText } from '../data/useKept';
import { Fault, WordsField } from '../parts/form';
import { OutsiderForm } from './OutsiderForm';
import { useLinkActs } from './useHolderActs';
import { signingWords as words } from './words';

/** Somebody outside passes their task on to somebody else outside; the sender is told, or asked first. */
export function DelegateOutside({ view, base }: { readonly view: SeatView; readonly base: string }) {
  const acts = useLinkActs(base);
  const [text, setText] = useKeptText(`delegate.${view.seat}.${view.epoch}`);
  const asks = needsOf(view, 'delegate')?.agreed ?? false;
  return (
    <Box mb="6px">
      <Box mb="8px">{asks ? words.delegateAsks : words.delegateOutside}</Box>
      <WordsField label={words.delegateWords} text={text} onText={setText} />
      <OutsiderForm
        label={words.delegateWho}
        does={words.delegateTo}
        busy={acts.busy}
        onWho={(who) => acts.delegate(who, text)}
      />
      <Fault error={acts.error} />
    </Box>
  );
}
