import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { dayIn, momentIn } from '@/core/time/zone';
import { ChildFailed, inChild } from '../children/run';
import type { EdgeTask } from '../children/signedFile';
import { refuse } from '../refused';
import type { ServedFile } from './access';
import { copyOut, inTemporaryFolder } from './temporary';

/** Larger ones are printed from the file itself: a copy is held in memory until it has been sent. */
const largest = 64 * 1024 * 1024;

/** Who prints, and when. */
export interface Printing {
  readonly name: string;
  readonly zone: string;
  readonly at: number;
}

/**
 * A copy of a PDF made for printing: along the upper edge of each page it says how the file stands, and who printed it
 * when. The file itself stays as it is. Refuses what is no PDF, or cannot be copied.
 */
export async function printCopy(
  organization: string,
  { file, standing }: ServedFile,
  { name, zone, at }: Printing,
): Promise<Buffer> {
  if (file.mediaType !== 'application/pdf' || file.bytes > largest) refuse('not-printable');
  const when = `${dayIn(zone, at, 0)}, ${momentIn(zone, at, at).split(', ')[1]}`;
  const text = `${standing} · printed ${when} by ${name}`;
  return inTemporaryFolder(async (folder) => {
    const source = path.join(folder, 'source.pdf');
    const into = path.join(folder, 'copy.pdf');
    await copyOut(organization, file, source);
    const task: EdgeTask = { kind: 'edge', source, into, lines: [{ edge: 'top', text, numbered: true }] };
    try {
      await inChild('render', task, { seconds: 120, megabytes: 2048 });
    } catch (error) {
      if (error instanceof ChildFailed) refuse('not-printable');
      throw error;
    }
    return readFile(into);
  });
}
