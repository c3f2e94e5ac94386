import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';

/** The shaper's own subsetter, as it comes: a WebAssembly module with the C interface of hb-subset. */
interface Subsetter {
  readonly memory: WebAssembly.Memory;
  _initialize(): void;
  malloc(size: number): number;
  hb_blob_create(data: number, length: number, mode: number, user: number, destroy: number): number;
  hb_blob_destroy(blob: number): void;
  hb_blob_get_length(blob: number): number;
  hb_blob_get_data(blob: number, length: number): number;
  hb_face_create(blob: number, index: number): number;
  hb_face_destroy(face: number): void;
  hb_face_reference_blob(face: number): number;
  hb_subset_input_create_or_fail(): number;
  hb_subset_input_destroy(input: number): void;
  hb_subset_input_glyph_set(input: number): number;
  hb_subset_input_set(input: number, which: number): number;
  hb_subset_input_set_flags(input: number, flags: number): void;
  hb_subset_or_fail(face: number, input: number): number;
  hb_set_add(set: number, value: number): void;
}

let loaded: Subsetter | undefined;
const faces = new WeakMap<Uint8Array, number>();

function subsetter(): Subsetter {
  if (!loaded) {
    const { resolve } = createRequire(path.join(process.cwd(), 'package.json'));
    const module = new WebAssembly.Module(readFileSync(resolve('harfbuzzjs/dist/harfbuzz-subset.wasm')));
    loaded = new WebAssembly.Instance(module).exports as unknown as Subsetter;
    loaded._initialize();
  }
  return loaded;
}

/** What a font inside a PDF does not need: its glyphs are named by number and placed by us. */
const needless =
  'GSUB GPOS GDEF BASE JSTF STAT DSIG name post OS/2 vhea vmtx VORG gasp kern meta cmap VDMX hdmx LTSH MATH COLR CPAL'.split(
    ' ',
  );
const dropTables = 3;
const writable = 2;
const flags = { noHinting: 1, retainGlyphIds: 2, outlineOfMissing: 0x40, noLayoutClosure: 0x200 } as const;

/** A font with the outlines of these glyphs alone, under their own numbers. Throws when the font cannot be read. */
export function subset(font: Uint8Array, glyphs: Iterable<number>): Uint8Array {
  const hb = subsetter();
  // The font stays in the module's memory: copying ten megabytes for each document costs more than the work itself.
  let face = faces.get(font);
  if (face === undefined) {
    const at = hb.malloc(font.length);
    if (!at) throw new Error('there is no memory for a font');
    new Uint8Array(hb.memory.buffer).set(font, at);
    const blob = hb.hb_blob_create(at, font.length, writable, 0, 0);
    face = hb.hb_face_create(blob, 0);
    hb.hb_blob_destroy(blob);
    faces.set(font, face);
  }
  const input = hb.hb_subset_input_create_or_fail();
  const wanted = hb.hb_subset_input_glyph_set(input);
  for (const glyph of glyphs) hb.hb_set_add(wanted, glyph);
  const dropped = hb.hb_subset_input_set(input, dropTables);
  for (const table of needless) hb.hb_set_add(dropped, tag(table));
  hb.hb_subset_input_set_flags(
    input,
    flags.noHinting | flags.retainGlyphIds | flags.outlineOfMissing | flags.noLayoutClosure,
  );
  const made = hb.hb_subset_or_fail(face, input);
  hb.hb_subset_input_destroy(input);
  if (!made) throw new Error('a font could not be cut to the letters in use');
  const blob = hb.hb_face_reference_blob(made);
  const from = hb.hb_blob_get_data(blob, 0);
  const bytes = Uint8Array.from(new Uint8Array(hb.memory.buffer, from, hb.hb_blob_get_length(blob)));
  hb.hb_blob_destroy(blob);
  hb.hb_face_destroy(made);
  return bytes;
}

/** The four letters of a table's name as the number that they are (OpenType, "Table Directory"). */
function tag(name: string): number {
  return [...name.padEnd(4)].reduce((sum, letter) => ((sum << 8) + letter.charCodeAt(0)) >>> 0, 0);
}
