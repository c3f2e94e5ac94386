'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { type ReactNode, useId } from 'react';
import { hanLanguage } from '@/core/text/hanLanguage';
import { usePeople } from '../data/people';
import { look } from '../theme/look';
import { WordButton } from './buttons';
import { Tile } from './Tile';
import { partWords } from './words';

/** A person by tile and name. */
export function PersonName({
  id,
  called,
  quiet,
  size = 24,
}: {
  readonly id: string;
  /** What they were called, where that is told of an earlier moment. */
  readonly called?: string;
  readonly quiet?: string | undefined;
  readonly size?: number;
}) {
  const { person, name } = usePeople();
  const known = person(id);
  const said = called ?? name(id);
  return (
    <span className={look('person')}>
      <Tile person={id} letters={known?.tile ?? ''} size={size} />
      <span className={look('cut')}>
        {said === '' ? <span className={look('nameless')} /> : <bdi lang={hanLanguage(said, known?.zone)}>{said}</bdi>}
        {quiet && <span className={look('personQuiet')}>{quiet}</span>}
      </span>
    </span>
  );
}

/** An empty page or list: what will be here, and the first step. */
export function Empty({ title, children }: { readonly title: string; readonly children?: ReactNode }) {
  return (
    <Box py="56px" textAlign="center" maxW="460px" mx="auto">
      <chakra.svg width="96px" height="34px" viewBox="0 0 96 34" mx="auto" mb="12px" aria-hidden>
        <path
          d="M6 6Q48 22 90 6"
          fill="none"
          stroke="currentColor"
          strokeWidth={1.6}
          strokeDasharray="4 4"
          opacity={0.5}
        />
        <path d="M6 2V32M90 2V32" stroke="currentColor" strokeWidth={1.6} opacity={0.5} />
      </chakra.svg>
      <Box fontWeight={600} fontSize="16px">
        {title}
      </Box>
      {children && (
        <Box color="quiet" mt="6px">
          {children}
        </Box>
      )}
    </Box>
  );
}

/** Marks what has come since the page was opened. */
export function NewDot() {
  return <span className={look('newDot')} role="img" aria-label={partWords.isNew} />;
}

export function Key({ children }: { readonly children: ReactNode }) {
  return (
    <chakra.kbd
      fontFamily="body"
      fontSize="12px"
      color="quiet"
      border="1px solid"
      borderColor="edge"
      borderRadius="4px"
      px="5px"
      minW="19px"
      textAlign="center"
      display="inline-block"
    >
      {children}
    </chakra.kbd>
  );
}

/** The line of facts along the lower edge, which opens upwards. */
export function Tray({
  facts,
  children,
  open,
  onToggle,
  label,
  low = false,
}: {
  readonly facts: ReactNode;
  readonly children?: ReactNode;
  readonly open: boolean;
  readonly onToggle: () => void;
  readonly label: string;
  /** Whether it leaves the page its room, and what is longer than a few lines scrolls. */
  readonly low?: boolean;
}) {
  const id = useId();
  return (
    <section aria-label={label} className={look('tray')}>
      {open && children && (
        <Box
          id={id}
          maxH={low ? '112px' : '44vh'}
          overflowY="auto"
          px={{ base: '16px', md: '24px' }}
          py="12px"
          borderBottom="1px solid"
          borderColor="hairline"
          tabIndex={0}
          role="region"
          aria-label={label}
        >
          {children}
        </Box>
      )}
      <div className={look('trayLine')}>
        <div className={look('facts')}>{facts}</div>
        {children && (
          <WordButton aria-expanded={open} aria-controls={open ? id : undefined} onClick={onToggle}>
            {open ? partWords.trayClose : partWords.trayOpen}
          </WordButton>
        )}
      </div>
    </section>
  );
}

/** One fact of a tray: a bold name and a quiet value. */
export function Fact({ name, children }: { readonly name: string; readonly children?: ReactNode }) {
  return (
    <span className={look('cut')}>
      <span className={look('strong')}>{name}</span> <span className={look('quiet')}>{children}</span>
    </span>
  );
}

/** The head of a page: where one is, its name, one sentence, and the due action at the top right. */
export function PageHead({
  above,
  title,
  below,
  children,
}: {
  readonly above?: ReactNode;
  readonly title: string;
  readonly below?: ReactNode;
  readonly children?: ReactNode;
}) {
  return (
    <Flex
      px={{ base: '16px', md: '24px' }}
      pt="14px"
      pb="10px"
      gap="16px"
      align="flex-start"
      flexWrap={{ base: 'wrap', md: 'nowrap' }}
      flex="none"
    >
      <Box flex="1" minW={{ base: '100%', md: 0 }}>
        {above && (
          <Box fontSize="13px" color="quiet" truncate>
            {above}
          </Box>
        )}
        <chakra.h1 fontSize="20px" lineHeight="1.3" css={{ overflowWrap: 'anywhere' }} lineClamp={2}>
          {title}
        </chakra.h1>
        {below && <Box mt="2px">{below}</Box>}
      </Box>
      {children && (
        <Flex gap="10px" align="center" flexWrap="wrap" justify="flex-end">
          {children}
        </Flex>
      )}
    </Flex>
  );
}

/** Asks once before what cannot be undone, where the button stood: says exactly what will happen. */
export function Leaf({
  tone = 'pine',
  children,
  label,
}: {
  readonly tone?: 'pine' | 'copper' | 'oxblood' | 'iris';
  readonly children: ReactNode;
  readonly label: string;
}) {
  return (
    <Box
      as="section"
      aria-label={label}
      bg="surface"
      border="1px solid"
      borderColor="hairline"
      borderLeft="3px solid"
      borderLeftColor={tone}
      borderRadius="5px"
      px="18px"
      py="14px"
    >
      {children}
    </Box>
  );
}

/** What a person wrote, set apart from what the application says. */
export function Quote({ children }: { readonly children: ReactNode }) {
  return (
    <chakra.blockquote
      dir="auto"
      borderLeft="2px solid"
      borderColor="hairline"
      pl="14px"
      my="8px"
      fontFamily="serif"
      fontSize="15px"
      whiteSpace="pre-wrap"
    >
      {children}
    </chakra.blockquote>
  );
}
