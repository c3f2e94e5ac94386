import { inChild } from '../children/run';
import type { EdgeTask } from '../children/signedFile';
import type { StoredFile } from './store';
import { copyOut } from './temporary';

/**
 * Writes a kept PDF to `into` with one line along an edge of each page. Throws ChildFailed where it cannot be laid; what
 * was kept stays as it is.
 */
export async function withEdgeLine(
  organization: string,
  file: StoredFile,
  line: EdgeTask['lines'][number],
  into: string,
): Promise<void> {
  const source = `${into}.source`;
  await copyOut(organization, file, source);
  const task: EdgeTask = { kind: 'edge', source, into, lines: [line] };
  await inChild('render', task, { seconds: 120, megabytes: 2048 });
}
