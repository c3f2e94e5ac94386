import { writeFile } from 'node:fs/promises';
import type { HanLanguage } from '@/core/text/hanLanguage';
import { Sheet } from '../letters/sheet';

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
  /** In whose way Han letters are drawn where a text does not tell it. */
  readonly language: HanLanguage;
  /** Milliseconds; written into the file, so that the same facts give the same bytes. */
  readonly at: number;
  readonly into: string;
}

/** Writes the evidence sheet as a PDF of its own: what this is, then who did what, when, from where, how identified. */
export async function writeEvidence(task: EvidenceTask): Promise<void> {
  const { title, facts, entries, history, closing, at } = task;
  const sheet = new Sheet(task.language);
  sheet.place(sheet.text('Evidence sheet', { size: 17, style: 'strong' }));
  sheet.place([...sheet.text(title, { size: 11 }), sheet.gap(8)]);
  for (const [label, value] of facts) sheet.place(sheet.row(label, value));
  sheet.place([sheet.rule()]);
  for (const entry of entries)
    sheet.place([
      ...sheet.text(`${entry.who}  ·  ${entry.what}`, { size: 10, style: 'strong' }),
      ...sheet.text(`${entry.when}${entry.from ? `, from ${entry.from}` : ''}; identified by: ${entry.identified}`, {
        size: 8.5,
        ink: 'quiet',
      }),
      ...entry.remarks.flatMap((remark) => sheet.text(remark, { size: 8.5 })),
      ...(entry.note ? sheet.text(`“${entry.note}”`) : []),
      sheet.rule(),
    ]);
  sheet.place([sheet.gap(4), ...sheet.text('History', { size: 11, style: 'strong' }), sheet.gap(4)]);
  for (const { when, text, note } of history)
    sheet.place([...sheet.row(when, text), ...(note ? sheet.text(`“${note}”`, { indent: 118, ink: 'quiet' }) : [])]);
  sheet.place([sheet.rule(), ...sheet.text(closing, { size: 8.5, ink: 'quiet' })]);
  await writeFile(task.into, await sheet.bytes(`Evidence sheet: ${title}`, at));
}
