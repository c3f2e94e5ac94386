import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Plain, root, run, say } from './machine.mjs';

const out = path.join(root, '.build');
/** One bundle for each process that is started by itself. */
const entries = ['server', 'worker', 'migrate', 'seed', 'history', 'trail', 'inspect', 'render', 'postroom', 'look'];

function fingerprint() {
  const hash = createHash('sha256');
  const visit = (folder) => {
    for (const name of readdirSync(folder).sort()) {
      const file = path.join(folder, name);
      if (statSync(file).isDirectory()) visit(file);
      else if (!name.endsWith('.test.ts')) hash.update(path.relative(root, file)).update(readFileSync(file));
    }
  };
  for (const folder of ['src', 'public']) if (existsSync(path.join(root, folder))) visit(path.join(root, folder));
  for (const file of ['package-lock.json', 'next.config.ts', 'tsconfig.json'])
    hash.update(readFileSync(path.join(root, file)));
  return hash.digest('hex');
}

/** Builds the pages and the processes, unless what was built last is the same. */
export async function build() {
  const mark = path.join(out, 'fingerprint');
  const now = fingerprint();
  if (existsSync(mark) && readFileSync(mark, 'utf8') === now && existsSync(path.join(root, '.next', 'BUILD_ID')))
    return;
  rmSync(mark, { force: true });
  say('Building ...');
  await bundle();
  await run(process.execPath, [path.join(out, 'look.mjs'), path.join(out, 'look.css')], {
    env: { NODE_ENV: 'production' },
    minutes: 1,
    what: 'The style sheet',
  });
  // The viewer's character maps, fonts and decoders are served from here, never from elsewhere.
  for (const part of ['cmaps', 'standard_fonts', 'wasm'])
    cpSync(path.join(root, 'node_modules/pdfjs-dist', part), path.join(root, 'public/viewer', part), {
      recursive: true,
    });
  await run(process.execPath, [path.join(root, 'node_modules/next/dist/bin/next'), 'build'], {
    minutes: 20,
    what: 'The build of the pages',
  });
  if (!existsSync(path.join(root, '.next', 'BUILD_ID')))
    throw new Plain('The build of the pages ended without a result.');
  writeFileSync(mark, now);
}

/** Builds the processes only. */
export async function bundle(extra = []) {
  mkdirSync(out, { recursive: true });
  const esbuild = await import('esbuild');
  await esbuild.build({
    entryPoints: [
      ...entries.map((name) => ({ out: name, in: path.join(root, 'src/entry', `${name}.ts`) })),
      ...extra.map((file) => ({ out: path.basename(file, '.ts'), in: file })),
    ],
    outdir: out,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    sourcemap: true,
    tsconfig: path.join(root, 'tsconfig.json'),
    logLevel: 'error',
  });
}
