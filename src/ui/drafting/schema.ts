import { Schema } from 'prosemirror-model';
import { linkFits } from '@/core/text/story';

const tags = { paragraph: 'p', heading: 'h', bullet: 'p', number: 'p' } as const;

/** The editor's schema has the flat shape of a story: a document of blocks, each with id, kind and level. */
export const schema = new Schema({
  nodes: {
    doc: { content: 'block+' },
    block: {
      content: 'text*',
      attrs: { id: { default: '' }, kind: { default: 'paragraph' }, level: { default: 0 } },
      defining: true,
      parseDOM: [
        { tag: 'h1', attrs: { kind: 'heading', level: 1 } },
        { tag: 'h2', attrs: { kind: 'heading', level: 2 } },
        { tag: 'h3, h4, h5, h6', attrs: { kind: 'heading', level: 3 } },
        {
          tag: 'li',
          getAttrs: (element) => {
            let depth = -1;
            for (let at: Element | null = element; at; at = at.parentElement)
              if (at.tagName === 'UL' || at.tagName === 'OL') depth += 1;
            return {
              kind: element.closest('ol, ul')?.tagName === 'OL' ? 'number' : 'bullet',
              level: Math.max(0, Math.min(4, depth)),
            };
          },
        },
        {
          tag: 'p[data-kind]',
          getAttrs: (element) => ({
            kind: element.dataset.kind ?? 'paragraph',
            level: Number(element.dataset.level ?? 0),
          }),
        },
        { tag: 'p, div, blockquote, pre' },
      ],
      toDOM: (node) => {
        const { id, kind, level } = node.attrs as { id: string; kind: keyof typeof tags; level: number };
        return [
          kind === 'heading' ? `h${level + 1}` : 'p',
          { 'data-id': id, 'data-kind': kind, 'data-level': String(level) },
          0,
        ];
      },
    },
    text: {},
  },
  marks: {
    link: {
      attrs: { href: {} },
      inclusive: false,
      parseDOM: [
        {
          tag: 'a[href]',
          getAttrs: (element) =>
            linkFits(element.getAttribute('href') ?? '') ? { href: element.getAttribute('href') } : false,
        },
      ],
      toDOM: (mark) => ['a', { href: mark.attrs.href as string, rel: 'noreferrer' }, 0],
    },
    bold: { parseDOM: [{ tag: 'strong' }, { tag: 'b' }, { style: 'font-weight=bold' }], toDOM: () => ['strong', 0] },
    italic: { parseDOM: [{ tag: 'em' }, { tag: 'i' }, { style: 'font-style=italic' }], toDOM: () => ['em', 0] },
  },
});
