import { readFileSync } from 'node:fs';
import * as hb from 'harfbuzzjs';
import type { HanLanguage } from '@/core/text/hanLanguage';
import { fontFiles } from '../children/fonts';

/** A font: its file is read when the first letter asks for it. */
export class Face {
  #data: Uint8Array | undefined;
  #face: hb.Face | undefined;
  #font: hb.Font | undefined;
  #points: ReadonlySet<number> | undefined;

  constructor(
    readonly name: string,
    readonly file: string,
  ) {}

  get data(): Uint8Array {
    this.#data ??= new Uint8Array(readFileSync(this.file));
    return this.#data;
  }

  get #opened(): hb.Face {
    this.#face ??= new hb.Face(new hb.Blob(this.data as Uint8Array<ArrayBuffer>));
    return this.#face;
  }

  get font(): hb.Font {
    this.#font ??= new hb.Font(this.#opened);
    return this.#font;
  }

  get unitsPerEm(): number {
    return this.#opened.upem;
  }

  /** Whether it has a glyph for a code point. */
  has(point: number): boolean {
    // The list stands in the shaper's memory and goes with its next call: it is copied at once.
    this.#points ??= new Set(this.#opened.collectUnicodes());
    return this.#points.has(point);
  }

  /** Whether it draws the form of a letter that a variation selector asks for. */
  hasVariant(point: number, selector: number): boolean {
    return this.font.variationGlyph(point, selector) !== undefined;
  }
}

/** Our own hands: for text, for what stands out, and for typed hand marks. What they lack comes from the fonts below. */
const own = {
  text: new Face('HankenGrotesk', fontFiles.sans),
  strong: new Face('HankenGroteskSemiBold', fontFiles.sansBold),
  hand: new Face('Caveat', fontFiles.hand),
} as const;
export type Style = keyof typeof own;

const common = [
  new Face('NotoSans', fontFiles.noto),
  new Face('NotoSansArabic', fontFiles.arabic),
  new Face('NotoSansHebrew', fontFiles.hebrew),
  new Face('NotoSansDevanagari', fontFiles.devanagari),
  new Face('NotoSansThai', fontFiles.thai),
] as const;

const han = {
  ja: new Face('NotoSansJP', fontFiles.japanese),
  ko: new Face('NotoSansKR', fontFiles.korean),
  'zh-Hans': new Face('NotoSansSC', fontFiles.simplified),
  'zh-Hant': new Face('NotoSansTC', fontFiles.traditional),
} as const;

const others: { readonly [L in HanLanguage]: readonly HanLanguage[] } = {
  ja: ['ja', 'zh-Hans', 'zh-Hant', 'ko'],
  ko: ['ko', 'ja', 'zh-Hans', 'zh-Hant'],
  'zh-Hans': ['zh-Hans', 'zh-Hant', 'ja', 'ko'],
  'zh-Hant': ['zh-Hant', 'zh-Hans', 'ja', 'ko'],
};

/** The fonts in which letters are looked for, in this order; Han letters in the way of a language. */
export function facesFor(
  style: Style,
  language: HanLanguage,
): { own: Face; common: readonly Face[]; han: readonly Face[] } {
  return { own: own[style], common, han: others[language].map((one) => han[one]) };
}
