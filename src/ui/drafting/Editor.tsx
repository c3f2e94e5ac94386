'use client';

import { Box } from '@chakra-ui/react';
import { baseKeymap, toggleMark } from 'prosemirror-commands';
import { history, redo, undo } from 'prosemirror-history';
import { keymap } from 'prosemirror-keymap';
import { Node } from 'prosemirror-model';
import { EditorState } from 'prosemirror-state';
import { EditorView } from 'prosemirror-view';
import 'prosemirror-view/style/prosemirror.css';
import { useEffect, useRef, useState } from 'react';
import { type EditorDocument, fromEditor, toEditor } from '@/core/text/codec';
import type { Story } from '@/core/text/story';
import { EditorTools } from './EditorTools';
import { backspace, enter, freshId, ids, indent, numbers, setKind, unset, unsetLetters } from './editing';
import { schema } from './schema';
import { draftWords as words } from './words';

/** A simple editor on the flat text model. Tells the story at every change. */
export function Editor({
  story,
  readOnly,
  unset: letters,
  onChange,
}: {
  readonly story: Story;
  readonly readOnly: boolean;
  /** Letters that cannot be set on a page; they are marked where they stand. */
  readonly unset: readonly string[];
  readonly onChange: (story: Story) => void;
}) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const told = useRef(onChange);
  told.current = onChange;
  const first = useRef(story);
  const [, redraw] = useState(0);

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
          unset,
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

  const named = letters.join('\n');
  useEffect(() => {
    const editor = view.current;
    editor?.dispatch(editor.state.tr.setMeta(unsetLetters, new Set(named.split('\n').filter(Boolean))));
  }, [named]);

  return (
    <Box>
      {!readOnly && view.current && <EditorTools editor={view.current} />}
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
          '& [data-unset]': {
            bg: 'copperSoft',
            textDecoration: 'underline wavy',
            textDecorationColor: 'var(--chakra-colors-copper)',
          },
          '& strong': { fontWeight: 700 },
          '& em': { fontStyle: 'italic' },
        }}
      />
    </Box>
  );
}
