import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { datedIn } from '@/core/time/zone';
import { ChildFailed } from '../children/run';
import { refuse } from '../refused';
import type { ServedFile } from './access';
import { withEdgeLine } from './edgeLine';
import { inTemporaryFolder } from './temporary';

/** Larger ones are printed from the file itself: a copy is held in memory until it has been sent. */
const largest = 64 * 1024 * 1024;

/** Who prints, and when. */
interface Printing {
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
  const text = `${standing} · printed ${datedIn(zone, at)} by ${name}`;
  return inTemporaryFolder(async (folder) => {
    const into = path.join(folder, 'copy.pdf');
    try {
      await withEdgeLine(organization, file, { edge: 'top', text, numbered: true }, into);
    } catch (error) {
      if (error instanceof ChildFailed) refuse('not-printable');
      throw error;
    }
    return readFile(into);
  });
}
