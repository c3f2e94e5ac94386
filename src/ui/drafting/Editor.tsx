'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { baseKeymap, splitBlockAs, toggleMark } from 'prosemirror-commands';
import { history, redo, undo } from 'prosemirror-history';
import { keymap } from 'prosemirror-keymap';
import { Node } from 'prosemirror-model';
import { type Command, EditorState, Plugin, type Transaction } from 'prosemirror-state';
import { Decoration, DecorationSet, EditorView } from 'prosemirror-view';
import 'prosemirror-view/style/prosemirror.css';
import { useEffect, useRef, useState } from 'react';
import { type EditorDocument, fromEditor, toEditor } from '@/core/text/codec';
import { type BlockKind, itemNumbers, linkFits, outline, type Story } from '@/core/text/story';
import { SideButton, WordButton } from '../parts/buttons';
import { TextInput } from '../parts/form';
import { schema } from './schema';
import { draftWords as words } from './words';

const freshId = () => `b${crypto.randomUUID().slice(0, 12).replace(/-/g, '')}`;

/** Gives every block an id of its own: the first of equals keeps it, copies and splits get new ones. */
const ids = new Plugin({
  appendTransaction: (transactions, _before, state) => {
    if (!transactions.some((transaction) => transaction.docChanged)) return null;
    const seen = new Set<string>();
    let change: Transaction | null = null;
    state.doc.forEach((node, at) => {
      const id = node.attrs.id as string;
      if (!id || seen.has(id)) change = (change ?? state.tr).setNodeAttribute(at, 'id', freshId());
      else seen.add(id);
    });
    return change;
  },
});

/** Section numbers and item numbers stand beside their blocks; they are computed, never typed. */
const numbers = new Plugin({
  props: {
    decorations: (state) => {
      const story = fromEditor(state.doc.toJSON() as EditorDocument, freshId);
      const sections = new Map(outline(story).map((entry) => [entry.block, entry.number]));
      const items = itemNumbers(story);
      const found: Decoration[] = [];
      state.doc.forEach((node, at) => {
        const id = node.attrs.id as string;
        const label =
          node.attrs.kind === 'heading'
            ? (sections.get(id) ?? '')
            : node.attrs.kind === 'number'
              ? `${items.get(id) ?? 1}.`
              : node.attrs.kind === 'bullet'
                ? '•'
                : '';
        if (label) found.push(Decoration.node(at, at + node.nodeSize, { 'data-label': label }));
        if (state.doc.childCount === 1 && node.content.size === 0)
          found.push(Decoration.node(at, at + node.nodeSize, { 'data-empty': words.placeholder }));
      });
      return DecorationSet.create(state.doc, found);
    },
  },
});

function setKind(kind: BlockKind, level: number): Command {
  return (state, dispatch) => {
    const { from, to } = state.selection;
    let change = state.tr;
    state.doc.nodesBetween(from, to, (node, at) => {
      if (node.type === schema.nodes.block)
        change = change.setNodeMarkup(at, undefined, { ...node.attrs, kind, level });
      return false;
    });
    dispatch?.(change);
    return true;
  };
}

/** Enter goes on with a list, ends an empty item, and leaves a heading for plain text. */
const enter: Command = (state, dispatch, view) => {
  const { $from } = state.selection;
  const { kind } = $from.parent.attrs as { kind: BlockKind };
  if ((kind === 'bullet' || kind === 'number') && $from.parent.content.size === 0)
    return setKind('paragraph', 0)(state, dispatch);
  const atEnd = $from.parentOffset === $from.parent.content.size;
  return splitBlockAs((node) => ({
    type: schema.nodes.block as never,
    attrs: node.attrs.kind === 'heading' && atEnd ? { id: '', kind: 'paragraph', level: 0 } : { ...node.attrs, id: '' },
  }))(state, dispatch, view);
};

/** Backspace at the beginning of an item or heading makes it plain text first. */
const backspace: Command = (state, dispatch) => {
  const { $from, empty } = state.selection;
  if (!empty || $from.parentOffset > 0 || $from.parent.attrs.kind === 'paragraph') return false;
  return setKind('paragraph', 0)(state, dispatch);
};

const indent =
  (by: 1 | -1): Command =>
  (state, dispatch) => {
    const { kind, level } = state.selection.$from.parent.attrs as { kind: BlockKind; level: number };
    if (kind !== 'bullet' && kind !== 'number') return false;
    return setKind(kind, Math.max(0, Math.min(4, level + by)))(state, dispatch);
  };

/** A simple editor on the flat text model. Tells the story at every change. */
export function Editor({
  story,
  readOnly,
  onChange,
}: {
  readonly story: Story;
  readonly readOnly: boolean;
  readonly onChange: (story: Story) => void;
}) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const told = useRef(onChange);
  told.current = onChange;
  const first = useRef(story);
  const [, redraw] = useState(0);
  const [linking, setLinking] = useState<string | null>(null);

  useEffect(() => {
    if (!host.current) return;
    const mod = { 'Mod-z': undo, 'Mod-y': redo, 'Shift-Mod-z': redo };
    const made = new EditorView(host.current, {
      state: EditorState.create({
        doc: Node.fromJSON(schema, toEditor(first.current)),
        plugins: [
          history(),
          keymap({
            ...mod,
            Enter: enter,
            Backspace: backspace,
            Tab: indent(1),
            'Shift-Tab': indent(-1),
            'Mod-b': toggleMark(schema.marks.bold as never),
            'Mod-i': toggleMark(schema.marks.italic as never),
            'Mod-Alt-0': setKind('paragraph', 0),
            'Mod-Alt-1': setKind('heading', 1),
            'Mod-Alt-2': setKind('heading', 2),
            'Mod-Alt-3': setKind('heading', 3),
          }),
          keymap(baseKeymap),
          ids,
          numbers,
        ],
      }),
      editable: () => !readOnly,
      attributes: { role: 'textbox', 'aria-multiline': 'true', 'aria-label': words.editor, spellcheck: 'true' },
      dispatchTransaction(transaction) {
        const state = made.state.apply(transaction);
        made.updateState(state);
        if (transaction.docChanged) told.current(fromEditor(state.doc.toJSON() as EditorDocument, freshId));
        redraw((n) => n + 1);
      },
    });
    view.current = made;
    redraw((n) => n + 1);
    return () => made.destroy();
  }, [readOnly]);

  const run = (command: Command) => {
    const editor = view.current;
    if (!editor) return;
    command(editor.state, editor.dispatch, editor);
    editor.focus();
  };
  const attrs = (view.current?.state.selection.$from.parent.attrs ?? {}) as { kind?: BlockKind; level?: number };
  const marked = (name: 'bold' | 'italic' | 'link') => {
    const state = view.current?.state;
    const type = schema.marks[name];
    if (!state || !type) return false;
    const { from, to, empty, $from } = state.selection;
    return empty ? !!type.isInSet(state.storedMarks ?? $from.marks()) : state.doc.rangeHasMark(from, to, type);
  };
  const tool = (label: string, on: boolean, command: Command, shown: React.ReactNode = label) => (
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
    <Box>
      {!readOnly && (
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
              disabled={view.current?.state.selection.empty ?? true}
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
      )}
      <Box
        ref={host}
        fontFamily="serif"
        fontSize="16px"
        lineHeight="1.65"
        py="18px"
        css={{
          '& .ProseMirror': { outline: 'none', minHeight: '46vh' },
          '& p, & h2, & h3, & h4': { position: 'relative', marginBottom: '8px', overflowWrap: 'anywhere' },
          '& h2': { fontFamily: 'var(--chakra-fonts-serif)', fontSize: '21px', marginTop: '22px' },
          '& h3': { fontFamily: 'var(--chakra-fonts-serif)', fontSize: '18px', marginTop: '16px' },
          '& h4': { fontFamily: 'var(--chakra-fonts-serif)', fontSize: '16px', marginTop: '12px' },
          '& h2::before, & h3::before, & h4::before': {
            content: 'attr(data-label)',
            marginRight: '10px',
            color: 'var(--chakra-colors-quiet)',
          },
          '& p[data-kind=bullet], & p[data-kind=number]': { paddingLeft: '26px' },
          '& p[data-kind=bullet]::before, & p[data-kind=number]::before': {
            content: 'attr(data-label)',
            position: 'absolute',
            left: '2px',
            color: 'var(--chakra-colors-quiet)',
          },
          '& p[data-level="1"]': { marginLeft: '26px' },
          '& p[data-level="2"]': { marginLeft: '52px' },
          '& p[data-level="3"]': { marginLeft: '78px' },
          '& p[data-level="4"]': { marginLeft: '104px' },
          '& [data-empty]::after': {
            content: 'attr(data-empty)',
            color: 'var(--chakra-colors-quiet)',
            position: 'absolute',
            left: 0,
            pointerEvents: 'none',
          },
          '& a': { color: 'var(--chakra-colors-pine)', textDecoration: 'underline' },
          '& strong': { fontWeight: 700 },
          '& em': { fontStyle: 'italic' },
        }}
      />
    </Box>
  );
}
