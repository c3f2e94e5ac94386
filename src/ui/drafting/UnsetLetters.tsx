import { Box } from '@chakra-ui/react';
import { outline } from '@/core/text/story';
import type { DraftView } from '@/server/drafting/view';
import { draftWords as words } from './words';

/** Letters that cannot be printed on a page yet: which, and in which section; they are marked in the text. */
export function UnsetLetters({ documents }: { readonly documents: DraftView['documents'] }) {
  const found = documents.flatMap(({ id, name, story, unset }) => {
    const sections = new Map<string, string>();
    let section = '';
    const titles = new Map(outline(story ?? { format: 1, blocks: [] }).map((entry) => [entry.block, entry.number]));
    for (const block of story?.blocks ?? []) {
      section = titles.get(block.id) ?? section;
      sections.set(block.id, section);
    }
    return unset.map(({ block, letter, name: called }) => ({
      key: `${id} ${block} ${letter}`,
      text: words.unsetLetter(letter, called, sections.get(block) ?? '', documents.length > 1 ? name : ''),
    }));
  });
  if (found.length === 0) return null;
  return (
    <Box role="status" bg="copperSoft" px="14px" py="8px" borderRadius="4px" mb="8px">
      <Box>{words.unset}</Box>
      <Box color="copperText">
        {found
          .slice(0, 6)
          .map(({ text }) => text)
          .join(' · ')}
        {found.length > 6 && ` · ${words.unsetMore(found.length - 6)}`}
      </Box>
    </Box>
  );
}
