'use client';

import { chakra } from '@chakra-ui/react';
import type { ComponentProps } from 'react';

/** Where a PDF is dropped, or chosen by a press; says how far one that is coming is. */
export function DropPdf({
  saying,
  onChoose,
  onFile,
  ...props
}: Omit<ComponentProps<typeof chakra.button>, 'onClick' | 'onDrop' | 'children'> & {
  readonly saying: string;
  readonly onChoose: () => void;
  readonly onFile: (file: File | undefined) => void;
}) {
  return (
    <chakra.button
      type="button"
      w="100%"
      border="1.5px dashed"
      borderColor="edge"
      borderRadius="6px"
      cursor="pointer"
      color="quiet"
      _hover={{ borderColor: 'pine', color: 'ink' }}
      onClick={onChoose}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        // A page that takes files anywhere does not take this one again.
        event.stopPropagation();
        onFile(event.dataTransfer.files[0]);
      }}
      {...props}
    >
      <span aria-live="polite">{saying}</span>
    </chakra.button>
  );
}
