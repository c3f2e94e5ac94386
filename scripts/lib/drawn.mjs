import { readFileSync } from 'node:fs';
import path from 'node:path';
import { commonTokens, declareClassPlugin, PluginKind } from '@stryker-mutator/api/plugin';
import { root } from './machine.mjs';

/** One change that could be made to the core, called by its place, its kind and what would stand there. */
export const changeOf = ({ fileName, location: { start, end }, mutatorName, replacement }) =>
  `${path.relative(root, fileName)}:${start.line}:${start.column}-${end.line}:${end.column} ${mutatorName} ${replacement}`;

/** Keeps the mutation test (`npm run mutate`) to the changes that were drawn: a range brings every other one within it too. */
class DrawnOnly {
  static inject = [commonTokens.options];

  constructor({ drawn }) {
    this.drawn = new Set(JSON.parse(readFileSync(drawn.list, 'utf8')));
  }

  async init() {}

  async check(mutants) {
    return Object.fromEntries(
      mutants.map((mutant) => [
        mutant.id,
        this.drawn.has(changeOf(mutant)) ? { status: 'passed' } : { status: 'compileError', reason: 'not drawn' },
      ]),
    );
  }
}

export const strykerPlugins = [declareClassPlugin(PluginKind.Checker, 'drawn', DrawnOnly)];
