'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useRef, useState } from 'react';
import type { AmendedFile } from '@/server/circulation/amend';
import { type Refusal, upload } from '../data/client';
import { SideButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import type { Amending } from './useAmending';
import { circulationWords } from './words';

const words = circulationWords.amend;

/** The files of the newest version: others in their place, further ones, or without them. */
export function AmendFiles({ amending }: { readonly amending: Amending }) {
  const { view } = amending;
  const newest = view.versions[view.versions.length - 1];
  const present: readonly AmendedFile[] = (newest?.files ?? []).map(({ id, file, name, role }) => ({
    id,
    file,
    name,
    role,
  }));
  const files = amending.files ?? present;
  const chooser = useRef<HTMLInputElement>(null);
  // What the chosen file is for: the place of another one, or a new one of a role.
  const [place, setPlace] = useState<AmendedFile | AmendedFile['role'] | null>(null);
  const [progress, setProgress] = useState<number | null>(null);
  const [fault, setFault] = useState<Refusal | null>(null);
  const put = (next: readonly AmendedFile[]) =>
    amending.setFiles(JSON.stringify(next) === JSON.stringify(present) ? null : next);
  const choose = (for_: AmendedFile | AmendedFile['role']) => {
    setPlace(for_);
    chooser.current?.click();
  };
  const take = async (chosen: File | undefined) => {
    if (!chosen || place === null) return;
    setFault(null);
    setProgress(0);
    try {
      const { file, name } = await upload(chosen, setProgress);
      if (typeof place === 'string') put([...files, { id: null, file, name, role: place }]);
      else put(files.map((one) => (one === place ? { ...one, file, name } : one)));
    } catch (error) {
      setFault(error as Refusal);
    }
    setProgress(null);
  };
  const documents = files.filter(({ role }) => role === 'document');
  return (
    <Box as="section" aria-label={words.files} mb="14px">
      <Box fontSize="13px" color="quiet" mb="4px">
        {words.files}
      </Box>
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label={words.chooseFile}
        onChange={(event) => {
          void take(event.target.files?.[0]);
          event.target.value = '';
        }}
      />
      {files.map((one) => {
        const was = present.find(({ id }) => id === one.id && id !== null);
        const state = !was ? words.fileNew : was.file === one.file ? '' : words.fileReplaced;
        return (
          <Flex key={`${one.id} ${one.file}`} gap="12px" py="2px" align="baseline" flexWrap="wrap">
            <Box flex="1" minW="220px" truncate>
              {one.name}{' '}
              <Box as="span" color="quiet" fontSize="13px">
                {[one.role === 'document' ? circulationWords.main : circulationWords.attachment, state]
                  .filter(Boolean)
                  .join(', ')}
              </Box>
            </Box>
            <WordButton aria-label={`${words.replace}: ${one.name}`} onClick={() => choose(one)}>
              {words.replace}
            </WordButton>
            {(one.role === 'attachment' || documents.length > 1) && (
              <WordButton
                color="oxblood"
                aria-label={`${words.removeFile}: ${one.name}`}
                onClick={() => put(files.filter((other) => other !== one))}
              >
                {words.removeFile}
              </WordButton>
            )}
          </Flex>
        );
      })}
      <Flex gap="10px" mt="6px" align="center">
        <SideButton onClick={() => choose('attachment')}>{words.addAttachment}</SideButton>
        <SideButton onClick={() => choose('document')}>{words.addDocument}</SideButton>
        {progress !== null && <Box color="quiet">{words.uploading(progress)}</Box>}
      </Flex>
      <Fault error={fault} />
    </Box>
  );
}
