'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { storyText } from '@/core/text/story';
import type { Refusal } from '../data/client';
import { DueButton, SideButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Leaf } from '../parts/parts';
import type { SavedText } from './useSavedText';
import { draftWords as words } from './words';

/** Two windows hold two texts: shows the other one and lets the author choose; neither is lost by itself. */
export function OtherText({ text }: { readonly text: SavedText }) {
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState<Refusal | null>(null);
  if (!text.conflict) return null;
  const keep = async () => {
    setBusy(true);
    setFault(null);
    await text.keepMine(words.otherNote).catch((error: Refusal) => setFault(error));
    setBusy(false);
  };
  return (
    <Box role="alert" mb="10px">
      <Leaf label={words.otherTitle} tone="copper">
        <Box fontWeight={600}>{words.otherTitle}</Box>
        <Box color="quiet">{words.otherWhat}</Box>
        <Box
          my="8px"
          maxH="120px"
          overflowY="auto"
          fontFamily="serif"
          whiteSpace="pre-wrap"
          borderLeft="2px solid"
          borderColor="hairline"
          pl="14px"
          tabIndex={0}
          role="region"
          aria-label={words.otherTitle}
        >
          {storyText(text.conflict.story)}
        </Box>
        <Fault error={fault} />
        <Flex gap="12px" justify="flex-end">
          <SideButton onClick={text.takeOther}>{words.otherTake}</SideButton>
          <DueButton busy={busy} onClick={() => void keep()}>
            {words.otherKeep}
          </DueButton>
        </Flex>
      </Leaf>
    </Box>
  );
}
