import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';

const root = path.resolve(import.meta.dirname, '../..');

function sources(folder: string): string[] {
  return readdirSync(path.join(root, folder), { withFileTypes: true }).flatMap((entry) => {
    const at = path.join(folder, entry.name);
    if (entry.isDirectory()) return sources(at);
    return /\.tsx?$/.test(entry.name) && !/\.test\.ts$/.test(entry.name) ? [at] : [];
  });
}

/** Every place in these folders where a pattern stands, as "file: line". */
function found(folders: readonly string[], pattern: RegExp): string[] {
  return folders.flatMap(sources).flatMap((file) =>
    readFileSync(path.join(root, file), 'utf8')
      .split('\n')
      .filter((line) => pattern.test(line))
      .map((line) => `${file}: ${line.trim()}`),
  );
}

describe('what somebody may do is said by the core alone', () => {
  it('no page and no operation looks at a role', () => {
    // A form in which an administrator gives roles is about roles, and asks nothing by them.
    const places = found(['src/ui', 'src/app', 'src/server'], /roles\??\.(includes|some|find|indexOf)\(/);
    expect(places.filter((place) => !place.includes('checked={roles.includes(role)}'))).toEqual([]);
    expect(found(['src/core/access'], /roles\.includes\(/).length).toBeGreaterThan(0);
  });

  it('no page compares its reader with the controller, the author, the owner or a holder', () => {
    const who = String.raw`(controller|author|owner|holder|secondHolders)\b`;
    const me = String.raw`\bme(\?)?\.(me\.)?id`;
    const either = new RegExp(`${me}\\s*[!=]==.*\\.${who}|\\.${who}.*[!=]==\\s*${me}|${who}.*includes\\(me`);
    expect(found(['src/ui', 'src/app'], either)).toEqual([]);
  });

  it('no button hangs on a state or a verb: whether it is there says an offer', () => {
    const state = String.raw`(phase|status|verb)\s*[!=]==\s*'`;
    const places = found(['src/ui', 'src/app'], new RegExp(`${state}.*(Button|mutate)`));
    expect(places).toEqual([]);
  });
});

/** A test of the engine by its name, in whichever room it is. */
function roomOf(name: string): string {
  const core = 'src/core/circulation';
  const room = readdirSync(path.join(root, core)).find((one) =>
    readdirSync(path.join(root, core, one)).includes(`${name}.test.ts`),
  );
  return `${core}/${room}/${name}.test.ts`;
}

describe('the map of rules', () => {
  it('names only tests that are there', () => {
    const lines = readFileSync(path.join(root, 'docs/rules.md'), 'utf8').split('\n');
    const named = lines.flatMap((line) => {
      const [, file, test] = /^([\w/]+): (.+)$/.exec(line.split('|')[2]?.trim() ?? '') ?? [];
      return file && test ? [{ file, test }] : [];
    });
    expect(named.length).toBeGreaterThan(60);
    for (const { file, test } of named) {
      const text = readFileSync(path.join(root, file.includes('/') ? `test/${file}.test.ts` : roomOf(file)), 'utf8');
      expect(text.includes(`it('${test}'`), `${file}: ${test}`).toBe(true);
    }
  });
});
