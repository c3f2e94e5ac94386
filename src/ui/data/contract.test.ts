import path from 'node:path';
import ts from 'typescript';
import { describe, expect, it } from 'vitest';

const root = path.resolve(import.meta.dirname, '../../..');
const file = path.join(root, 'src/ui/data/contractSample.ts');

/** The lines of a made-up file beside this one that do not compile. */
function wrongLines(text: string): number[] {
  const { config } = ts.readConfigFile(path.join(root, 'tsconfig.json'), ts.sys.readFile);
  const { options } = ts.parseJsonConfigFileContent(config, ts.sys, root);
  const host = ts.createCompilerHost({ ...options, incremental: false });
  const { getSourceFile, fileExists } = host;
  host.getSourceFile = (name, ...rest) =>
    name === file ? ts.createSourceFile(name, text, ts.ScriptTarget.ES2023) : getSourceFile(name, ...rest);
  host.fileExists = (name) => name === file || fileExists(name);
  const program = ts.createProgram([file], { ...options, incremental: false, noEmit: true }, host);
  const source = program.getSourceFile(file);
  const faults = program.getSemanticDiagnostics(source);
  return [
    ...new Set(faults.map((fault) => ts.getLineAndCharacterOfPosition(source as ts.SourceFile, fault.start ?? 0).line)),
  ];
}

describe('the contract of operations', () => {
  it('lets through what an operation takes and gives, and nothing else compiles', { timeout: 120_000 }, () => {
    const right = [
      "const desk = await ask('desk.tasks', {});",
      'export const tasks: readonly string[] = desk.rows.map((task) => task.title);',
      "const { value } = await tell('draft.choose', { change: 'c', document: 'd', edit: 1, source: 'text' });",
      'export const edit: number = value.edit;',
      "export const page = await ask('circulation.list', { state: 'all' });",
    ];
    const wrong = [
      "await ask('desk.nothing', {});",
      "await ask('draft.choose', { change: 'c', document: 'd', edit: 1, source: 'text' });",
      "await tell('draft.choose', { change: 'c', document: 'd', edit: '1', source: 'text' });",
      "await tell('draft.choose', { change: 'c', document: 'd', edit: 1, source: 'voice' });",
      "await tell('draft.choose', { change: 'c', document: 'd', source: 'text' });",
      "await tell('draft.choose', { change: 'c', document: 'd', edit: 1, source: 'text', more: 1 });",
      'export const titles: readonly number[] = desk.rows.map((task) => task.title);',
      'export const gone = value.revision;',
    ];
    const text = ["import { ask, tell } from './client';", ...right, ...wrong].join('\n');
    expect(wrongLines(text)).toEqual(wrong.map((_, i) => 1 + right.length + i));
  });
});
