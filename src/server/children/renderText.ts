import { writeFile } from 'node:fs/promises';
import type { Content, TDocumentDefinitions } from 'pdfmake/interfaces';
import { type Block, blockText, itemNumbers, outline, type Story, type TextRun } from '@/core/text/story';
import { type Cut, cutOf, documentParts } from '../letters/documentText';
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
    header: {
      text: inCut(`${number}  ·  ${title}`, 'normal'),
      margin: [64, 34, 64, 0],
      fontSize: 8.5,
      color: quietInk,
    },
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
      { text: inCut(title, 'bold'), fontSize: 19, bold: true, margin: [0, 0, 0, 14] },
      ...story.blocks.map((block) => laid(block, sections, items)),
    ],
  };
}

function laid(block: Block, sections: ReadonlyMap<string, string>, items: ReadonlyMap<string, number>): Content {
  const laidOut = block.runs.flatMap((run) => inline(run, block.kind === 'heading'));
  const text = laidOut.length > 0 ? laidOut : ' ';
  if (block.kind === 'heading') {
    const size = [14.5, 12.5, 11][block.level - 1] ?? 11;
    return {
      text: [`${sections.get(block.id) ?? ''}  `, ...laidOut],
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

/** A line in one cut, each of its letters in the first font that has it. */
function inCut(text: string, cut: Cut) {
  return documentParts(text, cut).map((part) => ({ text: part.text, font: part.family }));
}

/** A run with its marks; headings are bold throughout. */
function inline({ text, marks }: TextRun, heading: boolean) {
  const set = heading ? { ...marks, bold: true as const } : marks;
  return inCut(text, cutOf(set)).map((part) => ({
    ...part,
    ...(set.bold ? { bold: true } : {}),
    ...(set.italic ? { italics: true } : {}),
    ...(set.link ? { link: set.link, color: '#14524A', decoration: 'underline' as const } : {}),
  }));
}
