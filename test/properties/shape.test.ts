import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import ts from 'typescript';
import { describe, expect, it } from 'vitest';

const root = path.resolve(import.meta.dirname, '../..');
const parsed = new Map(
  ['src', 'test']
    .flatMap((folder) => readdirSync(path.join(root, folder), { recursive: true }).map((name) => `${folder}/${name}`))
    .filter((file) => /\.tsx?$/.test(file))
    .map((file) => {
      const text = readFileSync(path.join(root, file), 'utf8');
      return [file, ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true)] as const;
    }),
);
const lineOf = (source: ts.SourceFile, at: number) => source.getLineAndCharacterOfPosition(at).line + 1;

function everyNode(source: ts.SourceFile, look: (node: ts.Node) => void): void {
  const visit = (node: ts.Node): void => {
    look(node);
    ts.forEachChild(node, visit);
  };
  visit(source);
}

describe('the code', () => {
  it('has no function over a hundred lines in the core and the server', () => {
    const long: string[] = [];
    let met = 0;
    for (const [file, source] of parsed)
      if (/^src\/(core|server)\//.test(file) && !file.endsWith('.test.ts'))
        everyNode(source, (node) => {
          if (!ts.isFunctionLike(node) || !('body' in node) || !node.body) return;
          met += 1;
          const lines = lineOf(source, node.end) - lineOf(source, node.getStart()) + 1;
          if (lines > 100) long.push(`${file}:${lineOf(source, node.getStart())} ${lines}`);
        });
    expect(met).toBeGreaterThan(2000);
    expect(long).toEqual([]);
  });

  it('ends every switch over a union where the compiler says that nothing is left', () => {
    // Over what is no union of ours: codes of refusals of which few are told apart, keys, ids of the demonstration's types.
    const open = ['src/ui/signing/LinkPage.tsx', 'src/ui/circulation/usePlanKeys.ts', 'src/demo/history.ts'];
    const loose: string[] = [];
    let met = 0;
    for (const [file, source] of parsed)
      if (file.startsWith('src/') && !file.endsWith('.test.ts'))
        everyNode(source, (node) => {
          if (!ts.isSwitchStatement(node)) return;
          met += 1;
          const ends = node.caseBlock.clauses.some(
            (one) => ts.isDefaultClause(one) && /unreachable\(/.test(one.getText()),
          );
          if (!ends && !open.includes(file)) loose.push(`${file}:${lineOf(source, node.getStart())}`);
        });
    expect(met).toBeGreaterThan(20);
    expect(loose).toEqual([]);
  });

  it('exports nothing that nobody imports', () => {
    const wanted = new Set<string>();
    const want = (from: string, named: string, what: string) => {
      const base = named.startsWith('@/') ? `src/${named.slice(2)}` : path.join(path.dirname(from), named);
      const file = [base, `${base}.ts`, `${base}.tsx`].find((one) => parsed.has(one));
      if (file) wanted.add(`${file} ${what}`);
    };
    for (const [file, source] of parsed)
      everyNode(source, (node) => {
        if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) {
          if (!node.moduleSpecifier) return;
          const named = (node.moduleSpecifier as ts.StringLiteral).text;
          const bindings = ts.isImportDeclaration(node) ? node.importClause?.namedBindings : node.exportClause;
          if (bindings && 'elements' in bindings)
            for (const one of bindings.elements) want(file, named, (one.propertyName ?? one.name).text);
          else want(file, named, '*');
        } else if (ts.isCallExpression(node) && node.expression.kind === ts.SyntaxKind.ImportKeyword) {
          const [named] = node.arguments;
          if (named && ts.isStringLiteral(named)) want(file, named.text, '*');
        }
      });
    const spare: string[] = [];
    let met = 0;
    for (const [file, source] of parsed) {
      // Pages, handlers and what processes begin with are found by the framework and the scripts.
      if (!/^src\/(core|server|ui|workers|simulators|demo)\//.test(file) || file.endsWith('.test.ts')) continue;
      for (const statement of source.statements) {
        if (!ts.canHaveModifiers(statement)) continue;
        if (!ts.getModifiers(statement)?.some(({ kind }) => kind === ts.SyntaxKind.ExportKeyword)) continue;
        const names = ts.isVariableStatement(statement)
          ? statement.declarationList.declarations.map(({ name }) => name.getText())
          : 'name' in statement && statement.name
            ? [(statement.name as ts.Identifier).text]
            : [];
        for (const name of names) {
          met += 1;
          if (!wanted.has(`${file} ${name}`) && !wanted.has(`${file} *`)) spare.push(`${file} ${name}`);
        }
      }
    }
    expect(met).toBeGreaterThan(1000);
    expect(spare).toEqual([]);
  });
});
