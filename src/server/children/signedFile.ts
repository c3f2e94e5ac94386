import { readFile, writeFile } from 'node:fs/promises';
import type { Field } from '@/core/page/fields';
import { type EdgeLine, layEdgeLines } from './pdf/edge';
import { fill, type SignerValues } from './pdf/fill';
import { freeze } from './pdf/freeze';

/** Lays the fields of a file on it. */
export interface FreezeTask {
  readonly kind: 'freeze';
  readonly source: string;
  readonly into: string;
  readonly fields: readonly Field[];
}

/** Puts into a frozen file what its signers filled in, each in an increment of their own, in the order they signed. */
export interface FillTask {
  readonly kind: 'fill';
  readonly source: string;
  readonly into: string;
  readonly fields: readonly Field[];
  readonly signers: readonly SignerValues[];
}

/** Lays lines along the edges of a file's pages. */
export interface EdgeTask {
  readonly kind: 'edge';
  readonly source: string;
  readonly into: string;
  readonly lines: readonly EdgeLine[];
}

export async function runEdge(task: EdgeTask): Promise<void> {
  await writeFile(task.into, layEdgeLines(await readFile(task.source), task.lines));
}

export async function runFreeze(task: FreezeTask): Promise<void> {
  await writeFile(task.into, await freeze(await readFile(task.source), task.fields));
}

export async function runFill(task: FillTask): Promise<void> {
  let bytes = await readFile(task.source);
  for (const signer of task.signers) bytes = (await fill(bytes, task.fields, signer)) as typeof bytes;
  await writeFile(task.into, bytes);
}
