import { type Field, lintFields } from '@/core/page/fields';
import type { Tx } from '../db/connect';
import { findFile } from '../files/store';
import { refuse } from '../refused';
import { act } from './act';
import { circulationState } from './load';

/** Puts the fields of one file, after looking at its pages, which the engine does not know. */
export async function putFields(
  tx: Tx,
  circulation: string,
  input: { readonly file: string; readonly content: string; readonly fields: readonly Field[] },
  person: string,
): Promise<void> {
  const state = await circulationState(tx, circulation);
  const stored = await findFile(tx, input.content);
  if (!state || !stored?.facts.pages) refuse('file-unknown');
  if (input.fields.length > 0 && stored.facts.noFields) refuse('file-not-signable', { why: stored.facts.noFields });
  const finding = lintFields(input.fields, stored.facts.pages, new Set(state.seats.keys()))[0];
  if (finding) refuse('fields-unfit', { finding: finding.code, field: finding.field });
  await act(tx, circulation, { type: 'putFields', ...input }, person);
}
