import type { CirculationView } from '@/server/circulation/view';

/** What keeps the first of some files that cannot be had from whoever reads them; undefined where all can. */
export function barOf({ sight }: Pick<CirculationView, 'sight'>, files: readonly { readonly file: string }[]) {
  return files.map(({ file }) => sight[file]?.download).find((bar) => bar);
}
