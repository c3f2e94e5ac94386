import { type Block, type BlockKind, type Marks, normal, type Story, type TextRun } from './story';

/**
 * Between a story and the document of the editor. The editor's schema has the same flat shape: a document of
 * blocks, each with its id, kind and level, holding marked text. Only plain JSON passes, so the core needs no editor.
 */
export interface EditorDocument {
  readonly type: 'doc';
  readonly content: readonly EditorBlock[];
}

interface EditorBlock {
  readonly type: 'block';
  readonly attrs: { readonly id: string; readonly kind: BlockKind; readonly level: number };
  readonly content?: readonly EditorText[];
}

interface EditorText {
  readonly type: 'text';
  readonly text: string;
  readonly marks?: readonly EditorMark[];
}

type EditorMark =
  | { readonly type: 'bold' | 'italic' }
  | { readonly type: 'link'; readonly attrs: { readonly href: string } };

export function toEditor(story: Story): EditorDocument {
  return {
    type: 'doc',
    content: normal(story).blocks.map((block) => ({
      type: 'block',
      attrs: { id: block.id, kind: block.kind, level: block.level },
      ...(block.runs.length > 0 ? { content: block.runs.map(textOf) } : {}),
    })),
  };
}

function textOf(run: TextRun): EditorText {
  const marks: EditorMark[] = [];
  if (run.marks.link) marks.push({ type: 'link', attrs: { href: run.marks.link } });
  if (run.marks.bold) marks.push({ type: 'bold' });
  if (run.marks.italic) marks.push({ type: 'italic' });
  return { type: 'text', text: run.text, ...(marks.length > 0 ? { marks } : {}) };
}

/** The story in an editor's document. Ids that are empty or repeated (a paste, a split) are renewed by `freshId`. */
export function fromEditor(document: EditorDocument, freshId: () => string): Story {
  const seen = new Set<string>();
  const blocks: Block[] = document.content.map((block) => {
    let id = block.attrs.id;
    if (!id || seen.has(id)) id = freshId();
    seen.add(id);
    return {
      id,
      kind: block.attrs.kind,
      level: block.attrs.level,
      runs: (block.content ?? []).map((text) => ({ text: text.text, marks: marksOf(text.marks ?? []) })),
    };
  });
  return normal({ blocks });
}

function marksOf(marks: readonly EditorMark[]): Marks {
  const found: { bold?: true; italic?: true; link?: string } = {};
  for (const mark of marks) {
    if (mark.type === 'link') found.link = mark.attrs.href;
    else found[mark.type] = true;
  }
  return found;
}
