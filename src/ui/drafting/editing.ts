import { splitBlockAs } from 'prosemirror-commands';
import { type Command, Plugin, PluginKey, type Transaction } from 'prosemirror-state';
import { Decoration, DecorationSet } from 'prosemirror-view';
import { type EditorDocument, fromEditor } from '@/core/text/codec';
import { type BlockKind, itemNumbers, outline } from '@/core/text/story';
import { schema } from './schema';
import { draftWords as words } from './words';

/** An id for a new block. */
export const freshId = () => `b${crypto.randomUUID().slice(0, 12).replace(/-/g, '')}`;

/** Gives every block an id of its own: the first of equals keeps it, copies and splits get new ones. */
export const ids = new Plugin({
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
export const numbers = new Plugin({
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

/** Which letters cannot be set on a page; told to the editor when the server has looked. */
export const unsetLetters = new PluginKey<ReadonlySet<string>>('unset letters');

/** Marks where the letters stand that cannot be set. */
export const unset = new Plugin<ReadonlySet<string>>({
  key: unsetLetters,
  state: {
    init: () => new Set(),
    apply: (transaction, before) => transaction.getMeta(unsetLetters) ?? before,
  },
  props: {
    decorations: (state) => {
      const letters = unsetLetters.getState(state);
      if (!letters || letters.size === 0) return null;
      const found: Decoration[] = [];
      state.doc.descendants((node, at) => {
        const { text } = node;
        if (!text) return;
        for (const letter of letters)
          for (let i = text.indexOf(letter); i >= 0; i = text.indexOf(letter, i + letter.length))
            found.push(Decoration.inline(at + i, at + i + letter.length, { 'data-unset': '', title: words.unsetHere }));
      });
      return DecorationSet.create(state.doc, found);
    },
  },
});

/** Makes the blocks of the selection this kind. */
export function setKind(kind: BlockKind, level: number): Command {
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
export const enter: Command = (state, dispatch, view) => {
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
export const backspace: Command = (state, dispatch) => {
  const { $from, empty } = state.selection;
  if (!empty || $from.parentOffset > 0 || $from.parent.attrs.kind === 'paragraph') return false;
  return setKind('paragraph', 0)(state, dispatch);
};

/** Moves a list item in or out by a level. */
export const indent =
  (by: 1 | -1): Command =>
  (state, dispatch) => {
    const { kind, level } = state.selection.$from.parent.attrs as { kind: BlockKind; level: number };
    if (kind !== 'bullet' && kind !== 'number') return false;
    return setKind(kind, Math.max(0, Math.min(4, level + by)))(state, dispatch);
  };
