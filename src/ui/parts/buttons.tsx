'use client';

import { chakra } from '@chakra-ui/react';
import type { ComponentProps } from 'react';
import { partWords } from './words';

type ButtonProps = ComponentProps<typeof chakra.button> & { readonly busy?: boolean };

const plainButton = {
  fontWeight: 600,
  borderRadius: '6px',
  px: '12px',
  minH: '34px',
  cursor: 'pointer',
  whiteSpace: 'nowrap',
  _disabled: { opacity: 0.55, cursor: 'not-allowed' },
} as const;

/** The one action that is due: the largest thing on its page or leaf. Says what follows. */
export function DueButton({
  busy,
  children,
  tone = 'pine',
  ...props
}: ButtonProps & { readonly tone?: 'pine' | 'iris' }) {
  return (
    <chakra.button
      type="button"
      {...plainButton}
      px="18px"
      minH="40px"
      fontSize="15px"
      bg={tone}
      color={tone === 'pine' ? 'onPine' : 'onIris'}
      _hover={{ filter: 'brightness(1.08)' }}
      aria-busy={busy}
      {...props}
      disabled={props.disabled || busy}
    >
      {busy ? partWords.busy : children}
    </chakra.button>
  );
}

/** An action beside the due one. */
export function SideButton({ busy, children, ...props }: ButtonProps) {
  return (
    <chakra.button
      type="button"
      {...plainButton}
      bg="surface"
      color="ink"
      border="1px solid"
      borderColor="edge"
      fontWeight={500}
      _hover={{ borderColor: 'ink' }}
      aria-busy={busy}
      {...props}
      disabled={props.disabled || busy}
    >
      {busy ? partWords.busy : children}
    </chakra.button>
  );
}

/** What destroys: apart and quieter, in its own colour. */
export function GraveButton({ busy, children, ...props }: ButtonProps) {
  return (
    <chakra.button
      type="button"
      {...plainButton}
      color="oxblood"
      bg="transparent"
      border="1px solid"
      borderColor="transparent"
      fontWeight={500}
      _hover={{ borderColor: 'oxblood' }}
      aria-busy={busy}
      {...props}
      disabled={props.disabled || busy}
    >
      {busy ? partWords.busy : children}
    </chakra.button>
  );
}

/** A word that can be pressed. */
export function WordButton(props: ComponentProps<typeof chakra.button>) {
  return (
    <chakra.button
      type="button"
      color="pine"
      fontWeight={600}
      cursor="pointer"
      px="2px"
      minH="24px"
      _hover={{ textDecoration: 'underline' }}
      {...props}
    />
  );
}
