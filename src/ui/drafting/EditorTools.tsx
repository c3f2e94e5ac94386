'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { toggleMark } from 'prosemirror-commands';
import { redo, undo } from 'prosemirror-history';
import type { Command } from 'prosemirror-state';
import type { EditorView } from 'prosemirror-view';
import { type ReactNode, useState } from 'react';
import { type BlockKind, linkFits } from '@/core/text/story';
import { SideButton, WordButton } from '../parts/buttons';
import { TextInput } from '../parts/form';
import { setKind } from './editing';
import { schema } from './schema';
import { draftWords as words } from './words';

/** What can be done with the selection: kinds of blocks, marks, links, undo. */
export function EditorTools({ editor }: { readonly editor: EditorView }) {
  const [linking, setLinking] = useState<string | null>(null);
  const run = (command: Command) => {
    command(editor.state, editor.dispatch, editor);
    editor.focus();
  };
  const attrs = editor.state.selection.$from.parent.attrs as { kind?: BlockKind; level?: number };
  const marked = (name: 'bold' | 'italic' | 'link') => {
    const { state } = editor;
    const type = schema.marks[name];
    if (!type) return false;
    const { from, to, empty, $from } = state.selection;
    return empty ? !!type.isInSet(state.storedMarks ?? $from.marks()) : state.doc.rangeHasMark(from, to, type);
  };
  const tool = (label: string, on: boolean, command: Command, shown: ReactNode = label) => (
    <chakra.button
      type="button"
      key={label}
      aria-label={label}
      aria-pressed={on}
      minH="30px"
      minW="30px"
      px="8px"
      borderRadius="5px"
      cursor="pointer"
      bg={on ? 'pineSoft' : 'transparent'}
      fontWeight={on ? 600 : 400}
      _hover={{ bg: 'sunk' }}
      onMouseDown={(event) => event.preventDefault()}
      onClick={() => run(command)}
    >
      {shown}
    </chakra.button>
  );
  const setLink = (href: string | null) => {
    const type = schema.marks.link;
    if (type)
      run((state, dispatch) => {
        const { from, to } = state.selection;
        dispatch?.(href ? state.tr.addMark(from, to, type.create({ href })) : state.tr.removeMark(from, to, type));
        return true;
      });
    setLinking(null);
  };
  return (
    <Box position="sticky" top={0} zIndex={4} bg="ground" borderBottom="1px solid" borderColor="hairline" py="5px">
      <Flex role="toolbar" aria-label={words.toolbar} gap="2px" flexWrap="wrap" align="center">
        {tool(words.kinds.paragraph, attrs.kind === 'paragraph', setKind('paragraph', 0))}
        {tool(words.kinds.h1, attrs.kind === 'heading' && attrs.level === 1, setKind('heading', 1))}
        {tool(words.kinds.h2, attrs.kind === 'heading' && attrs.level === 2, setKind('heading', 2))}
        {tool(words.kinds.h3, attrs.kind === 'heading' && attrs.level === 3, setKind('heading', 3))}
        {tool(words.kinds.bullet, attrs.kind === 'bullet', setKind('bullet', 0))}
        {tool(words.kinds.number, attrs.kind === 'number', setKind('number', 0))}
        <Box w="1px" h="20px" bg="hairline" mx="6px" />
        {tool(words.bold, marked('bold'), toggleMark(schema.marks.bold as never), <b>B</b>)}
        {tool(words.italic, marked('italic'), toggleMark(schema.marks.italic as never), <i>I</i>)}
        <chakra.button
          type="button"
          minH="30px"
          px="8px"
          borderRadius="5px"
          cursor="pointer"
          aria-pressed={marked('link')}
          disabled={editor.state.selection.empty}
          _disabled={{ opacity: 0.5 }}
          _hover={{ bg: 'sunk' }}
          onMouseDown={(event) => event.preventDefault()}
          onClick={() => setLinking('https://')}
        >
          {words.link}
        </chakra.button>
        <Box w="1px" h="20px" bg="hairline" mx="6px" />
        {tool(words.undo, false, undo)}
        {tool(words.redo, false, redo)}
      </Flex>
      {linking !== null && (
        <chakra.form
          display="flex"
          gap="8px"
          alignItems="center"
          pt="6px"
          onSubmit={(event) => {
            event.preventDefault();
            if (linkFits(linking)) setLink(linking);
          }}
        >
          <TextInput
            maxW="360px"
            aria-label={words.linkTo}
            placeholder={words.linkTo}
            autoFocus
            value={linking}
            aria-invalid={!linkFits(linking)}
            onChange={(event) => setLinking(event.target.value)}
            onKeyDown={(event) => event.key === 'Escape' && setLinking(null)}
          />
          <SideButton type="submit" disabled={!linkFits(linking)}>
            {words.linkSet}
          </SideButton>
          <WordButton onClick={() => setLink(null)}>{words.linkOff}</WordButton>
        </chakra.form>
      )}
    </Box>
  );
}
