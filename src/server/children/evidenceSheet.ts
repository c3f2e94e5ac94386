import { writeFile } from 'node:fs/promises';
import type { TDocumentDefinitions } from 'pdfmake/interfaces';
import { quietInk, withFonts } from './layout';

/** One thing somebody did, in words ready to print. */
export interface EvidenceEntry {
  readonly who: string;
  readonly what: string;
  readonly when: string;
  readonly from: string;
  readonly identified: string;
  readonly note: string | null;
  /** What else must be known about it, a sentence each. */
  readonly remarks: readonly string[];
}

export interface EvidenceTask {
  readonly kind: 'evidence';
  readonly title: string;
  readonly facts: readonly (readonly [string, string])[];
  readonly entries: readonly EvidenceEntry[];
  /** All that happened, oldest first, a sentence each. */
  readonly history: readonly { readonly when: string; readonly text: string; readonly note: string | null }[];
  readonly closing: string;
  /** Milliseconds; written into the file, so that the same facts give the same bytes. */
  readonly at: number;
  readonly into: string;
}

/** Writes the evidence sheet as a PDF of its own: what this is, then who did what, when, from where, how identified. */
export async function writeEvidence(task: EvidenceTask): Promise<void> {
  await writeFile(task.into, await withFonts(definition(task)));
}

/** A long word without a place to break (a hash) gets one every few letters, or it would run off the page. */
function breakable(text: string): string {
  return text.replace(/\S{24}/g, (run) => `${run}\u200B`);
}

function definition({ title, facts, entries, history, closing, at }: EvidenceTask): TDocumentDefinitions {
  const rule = {
    canvas: [{ type: 'line' as const, x1: 0, y1: 0, x2: 483, y2: 0, lineWidth: 0.5, lineColor: '#E4DED2' }],
    margin: [0, 6, 0, 6] as [number, number, number, number],
  };
  return {
    info: { title: `Evidence sheet: ${title}`, creationDate: new Date(at), producer: 'Avenda', creator: 'Avenda' },
    pageSize: 'A4',
    pageMargins: [56, 56, 56, 56],
    defaultStyle: { font: 'HankenGrotesk', fontSize: 9, lineHeight: 1.25 },
    footer: (page: number, pages: number) => ({
      text: `${page} of ${pages}`,
      alignment: 'right',
      margin: [56, 20, 56, 0],
      fontSize: 8,
      color: quietInk,
    }),
    content: [
      { text: 'Evidence sheet', fontSize: 17, bold: true },
      { text: title, fontSize: 11, margin: [0, 2, 0, 10] },
      ...facts.map(([label, value]) => ({
        columns: [
          { width: 118, text: label, color: quietInk, fontSize: 8.5 },
          { width: '*', text: breakable(value) },
        ],
        margin: [0, 0, 0, 2] as [number, number, number, number],
      })),
      rule,
      ...entries.flatMap((entry) => [
        {
          stack: [
            { text: `${entry.who}  ·  ${entry.what}`, bold: true, fontSize: 10 },
            {
              text: `${entry.when}${entry.from ? `, from ${entry.from}` : ''}; identified by: ${breakable(entry.identified)}`,
              color: quietInk,
              fontSize: 8.5,
            },
            ...entry.remarks.map((text) => ({ text, fontSize: 8.5 })),
            ...(entry.note ? [{ text: `“${breakable(entry.note)}”` }] : []),
          ],
          unbreakable: (entry.note?.length ?? 0) < 1500,
        },
        rule,
      ]),
      { text: 'History', fontSize: 11, bold: true, margin: [0, 6, 0, 6] },
      ...history.map(({ when, text, note }) => ({
        columns: [
          { width: 118, text: when, color: quietInk, fontSize: 8.5 },
          {
            width: '*',
            text: [breakable(text), ...(note ? [{ text: `  “${breakable(note)}”`, color: quietInk }] : [])],
          },
        ],
        margin: [0, 0, 0, 2] as [number, number, number, number],
      })),
      rule,
      { text: closing, color: quietInk, fontSize: 8.5, margin: [0, 4, 0, 0] },
    ],
  };
}
