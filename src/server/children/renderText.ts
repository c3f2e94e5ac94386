import { writeFile } from 'node:fs/promises';
import type { Content, TDocumentDefinitions } from 'pdfmake/interfaces';
import { type Block, blockText, itemNumbers, outline, type Story, type TextRun } from '@/core/text/story';
import { quietInk, withFonts } from './layout';

export interface TextTask {
  readonly kind: 'text';
  readonly story: Story;
  readonly title: string;
  readonly number: string;
  readonly revision: string;
  readonly version: number;
  /** Milliseconds; written into the file, so that the same text gives the same bytes. */
  readonly at: number;
  readonly into: string;
}

/** Renders a story as a PDF (A4, numbered sections, page n of m) into a file. The same task gives the same bytes. */
export async function renderText(task: TextTask): Promise<void> {
  await writeFile(task.into, await withFonts(definition(task)));
}

function definition({ story, title, number, revision, version, at }: TextTask): TDocumentDefinitions {
  const sections = new Map(outline(story).map((entry) => [entry.block, entry.number]));
  const items = itemNumbers(story);
  return {
    info: { title: `${number} ${title}`, creationDate: new Date(at), producer: 'Avenda', creator: 'Avenda' },
    pageSize: 'A4',
    pageMargins: [64, 72, 64, 72],
    defaultStyle: { font: 'Literata', fontSize: 10.5, lineHeight: 1.35 },
    header: { text: `${number}  ·  ${title}`, margin: [64, 34, 64, 0], fontSize: 8.5, color: quietInk },
    footer: (page: number, pages: number) => ({
      columns: [
        { text: `Revision ${revision}, version ${version}`, alignment: 'left' },
        { text: `${page} of ${pages}`, alignment: 'right' },
      ],
      margin: [64, 26, 64, 0],
      fontSize: 8.5,
      color: quietInk,
    }),
    content: [
      { text: title, fontSize: 19, bold: true, margin: [0, 0, 0, 14] },
      ...story.blocks.map((block) => laid(block, sections, items)),
    ],
  };
}

function laid(block: Block, sections: ReadonlyMap<string, string>, items: ReadonlyMap<string, number>): Content {
  const text = block.runs.length > 0 ? block.runs.map(inline) : ' ';
  if (block.kind === 'heading') {
    const size = [14.5, 12.5, 11][block.level - 1] ?? 11;
    return {
      text: [`${sections.get(block.id) ?? ''}  `, ...(Array.isArray(text) ? text : [text])],
      fontSize: size,
      bold: true,
      margin: [0, 14 - block.level * 2, 0, 4],
      headlineLevel: block.level,
    };
  }
  if (block.kind === 'paragraph') return { text, margin: [0, 0, 0, 7] };
  const mark = block.kind === 'number' ? `${items.get(block.id) ?? 1}.` : '•';
  return {
    columns: [
      { width: 18, text: mark },
      { width: '*', text },
    ],
    margin: [8 + block.level * 18, 0, 0, blockText(block) ? 4 : 2],
  };
}

function inline(run: TextRun): Content {
  return {
    text: run.text,
    ...(run.marks.bold ? { bold: true } : {}),
    ...(run.marks.italic ? { italics: true } : {}),
    ...(run.marks.link ? { link: run.marks.link, color: '#14524A', decoration: 'underline' as const } : {}),
  };
}
