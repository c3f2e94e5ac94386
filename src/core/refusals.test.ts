import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { kindOf, type RefusalCode, refusal, refusalCodes, refusalKinds } from './refusals';

/** Everything that could refuse something. */
const sources = ['core', 'server', 'app', 'simulators']
  .flatMap((part) => {
    const folder = path.resolve(import.meta.dirname, '..', part);
    return readdirSync(folder, { recursive: true, encoding: 'utf8' }).map((name) => path.join(folder, name));
  })
  .filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts') && !name.endsWith('refusals.ts'))
  .map((name) => readFileSync(name, 'utf8'))
  .join('\n');

describe('the catalogue of refusals', () => {
  it('has each code once, of one kind, with a whole sentence, and none that nothing gives', () => {
    expect(new Set(refusalCodes).size).toBe(refusalCodes.length);
    for (const code of refusalCodes) {
      expect(refusalKinds, code).toContain(kindOf(code));
      expect(refusal(code, { why: 'It is closed.' }).sentence, code).toMatch(/^[A-Z“].*[.}]$/);
      const parts = code.split('-');
      // Some are put together from what failed.
      const given = sources.includes(`'${code}'`) || sources.includes(`'${parts.slice(1).join('-')}'`);
      expect(given, code).toBe(true);
    }
  });

  it('fills its sentences, and names the field that a form can show them at', () => {
    expect(refusal('stale-version', { seen: 1, newest: 3 }).sentence).toBe(
      'You had version 1 open. Version 3 is the newest; please read that one.',
    );
    expect(refusal('name-taken').facts).toEqual({ field: 'name' });
    expect(refusal('name-taken', { field: 'title' }).facts).toEqual({ field: 'title' });
    expect(refusal('not-found', { of: 'C-1' }).facts).toEqual({ of: 'C-1' });
    const code: RefusalCode = 'paused';
    expect(refusal(code)).toEqual({ code, sentence: expect.stringContaining('paused'), facts: {} });
  });
});
