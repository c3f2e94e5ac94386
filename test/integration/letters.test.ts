import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { decodePDFRawStream, PDFArray, PDFDict, PDFDocument, PDFName, type PDFRawStream } from '@cantoo/pdf-lib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Field, FieldValue } from '@/core/page/fields';
import { hanLanguageIn } from '@/core/text/hanLanguage';
import type { Story } from '@/core/text/story';
import { fontFiles } from '@/server/children/fonts';
import { fill } from '@/server/children/pdf/fill';
import { freeze } from '@/server/children/pdf/freeze';
import { renderText } from '@/server/children/renderText';
import { unsetInLine, unsetInStory } from '@/server/letters/documentText';
import { itemise, unsettable } from '@/server/letters/itemise';
import { layOut } from '@/server/letters/layOut';
import { Sheet } from '@/server/letters/sheet';
import { spelled } from '@/server/letters/spelled';
import { runsOf } from '../setting';
import { samplePdf } from './world';

const folder = mkdtempSync(path.join(os.tmpdir(), 'letters-'));
let files = 0;
const fresh = (kind = 'pdf') => {
  files += 1;
  return path.join(folder, `${files}.${kind}`);
};
const written = (bytes: Uint8Array) => {
  const at = fresh();
  writeFileSync(at, bytes);
  return at;
};

/** The letters of a file as another program reads them, without the signs that it adds to turn a line. */
function readBack(at: string): string {
  const text = execFileSync('pdftotext', ['-layout', at, '-']).toString();
  return text.replace(/[\u200E\u200F\u202A-\u202E\u2066-\u2069]/g, '').normalize('NFC');
}
const squeezed = (text: string) => text.normalize('NFC').replace(/\s+/g, ' ').trim();

async function sheetOf(texts: readonly string[], size = 12): Promise<string> {
  const sheet = new Sheet('zh-Hans');
  for (const text of texts) sheet.place(sheet.text(text, { size }));
  return written(await sheet.bytes('Letters', 0));
}

/** A file of one page, frozen with a field for each value and filled in. */
async function filled(values: readonly FieldValue[]): Promise<string> {
  const fields = values.map(
    (value, i): Field => ({
      id: `f${i}`,
      seat: 's',
      file: 'main',
      kind: value.kind === 'typed' ? 'signature' : 'text',
      page: 0,
      x: 40,
      y: 150 + i * 40,
      width: 400,
      height: 34,
      needed: true,
      label: '',
    }),
  );
  const frozen = await freeze(await samplePdf('Letters', 1), fields);
  return written(
    await fill(frozen, fields, { seat: 's', values: Object.fromEntries(values.map((value, i) => [`f${i}`, value])) }),
  );
}

/** A name in each script, and the one font that draws it whole. */
const specimens: readonly (readonly [string, string, string])[] = [
  ['Vietnamese', 'Nguyễn Thị Hồng Ánh, Đặng Quỳnh', fontFiles.sans],
  ['Latin with marks of its own', 'x̂́ ẹ̄́ n̈ M̃', fontFiles.noto],
  ['Greek with all its accents', 'Ἀλέξανδρος ᾧ Ὀδυσσεύς ΐ', fontFiles.noto],
  ['Cyrillic', 'Щербакова Ѣ Ђорђе Ґ Ӹ', fontFiles.noto],
  ['Arabic with vowels', 'مُحَمَّد عَلِي', fontFiles.arabic],
  ['Hebrew with points', 'שָׁלוֹם עוֹלָם', fontFiles.hebrew],
  ['Devanagari', 'क्षत्रिय हिन्दी', fontFiles.devanagari],
  ['Thai', 'สมชาย ภูเก็ต น้ำ', fontFiles.thai],
  ['Japanese', '山田太郎やまだ', fontFiles.japanese],
  ['Chinese, simplified', '张伟骨', fontFiles.simplified],
  ['Korean', '김민준', fontFiles.korean],
];

/** A page as grey values, cut to its ink. */
function inkOf(pdf: string): { readonly width: number; readonly height: number; readonly dark: Uint8Array } {
  const stem = fresh('raster').replace(/\.raster$/, '');
  execFileSync('pdftoppm', ['-gray', '-r', '600', '-singlefile', pdf, stem]);
  const bytes = readFileSync(`${stem}.pgm`);
  const head = /^P5\s+(\d+)\s+(\d+)\s+255\s/.exec(bytes.subarray(0, 40).toString('latin1'));
  if (!head) throw new Error('not a grey picture');
  const [width, height] = [Number(head[1]), Number(head[2])];
  const grey = bytes.subarray(head[0].length);
  let [left, right, top, bottom] = [width, 0, height, 0];
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1)
      if ((grey[y * width + x] ?? 255) < 128) {
        [left, right] = [Math.min(left, x), Math.max(right, x)];
        [top, bottom] = [Math.min(top, y), Math.max(bottom, y)];
      }
  const [w, h] = [right - left + 1, bottom - top + 1];
  const dark = new Uint8Array(w * h);
  for (let y = 0; y < h; y += 1)
    for (let x = 0; x < w; x += 1) dark[y * w + x] = 255 - (grey[(y + top) * width + x + left] ?? 255);
  return { width: w, height: h, dark };
}

type Ink = ReturnType<typeof inkOf>;

/** A picture with every dot dark that has a dark one within this reach. */
function spread({ width, height, dark }: Ink, reach: number): Ink {
  const wide = new Uint8Array(dark.length);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      if ((dark[y * width + x] ?? 0) < 128) continue;
      for (let v = Math.max(0, y - reach); v <= Math.min(height - 1, y + reach); v += 1)
        wide.fill(255, v * width + Math.max(0, x - reach), v * width + Math.min(width - 1, x + reach) + 1);
    }
  return { width, height, dark: wide };
}

/** The share of ink in one picture of which the other has nothing near: the edges of letters do not count. */
function difference(a: Ink, b: Ink): number {
  const reach = 4;
  const alone = (one: Ink, other: Ink): number => {
    const near = spread(other, reach);
    let [whole, lost] = [0, 0];
    for (let y = 0; y < one.height; y += 1)
      for (let x = 0; x < one.width; x += 1) {
        if ((one.dark[y * one.width + x] ?? 0) < 128) continue;
        whole += 1;
        const inside = x < near.width && y < near.height;
        if (!inside || near.dark[y * near.width + x] === 0) lost += 1;
      }
    return lost / whole;
  };
  return Math.max(alone(a, b), alone(b, a));
}

describe('letters of every script', () => {
  it('come back from the evidence and from a signed page as they were written', async () => {
    const names = specimens.map(([, text]) => text);
    const sheet = readBack(await sheetOf(names));
    for (const [script, text] of specimens) expect(squeezed(sheet), script).toContain(squeezed(text));
    for (const kind of ['typed', 'text'] as const)
      for (const [script, text] of specimens) {
        const file = await filled([{ kind, text }]);
        expect(squeezed(readBack(file)), `${script}, ${kind}`).toContain(squeezed(text));
        execFileSync('qpdf', ['--check', file], { stdio: 'ignore' });
      }
  });

  it('stand as another shaper draws them', async () => {
    for (const [script, text, font] of specimens) {
      const sheet = new Sheet(script === 'Korean' ? 'ko' : 'zh-Hans');
      sheet.place(sheet.text(text, { size: 24 }));
      const ours = inkOf(written(await withoutFoot(await PDFDocument.load(await sheet.bytes('', 0)))));
      expect(difference(ours, drawnElsewhere(text, font)), script).toBeLessThan(0.002);
      // The measure tells a vowel that is missing.
      if (script === 'Hebrew with points')
        expect(difference(ours, drawnElsewhere(text.replace('\u05B8', ''), font))).toBeGreaterThan(0.005);
    }
  });

  function drawnElsewhere(text: string, font: string): ReturnType<typeof inkOf> {
    const at = fresh();
    const look = ['--font-size=24', '--margin=20', '--foreground=17242B', '--background=FFFFFF'];
    execFileSync('hb-view', ['--output-format=pdf', ...look, `--output-file=${at}`, font, text]);
    return inkOf(at);
  }

  /** The sheet without the number at its foot, which the other program does not draw. */
  async function withoutFoot(pdf: PDFDocument): Promise<Uint8Array> {
    pdf.getPage(0).setMediaBox(0, 300, 595, 541);
    return pdf.save();
  }

  it('have a glyph each in the fonts of the file; the sign for a missing one is in no code', async () => {
    const pdf = await PDFDocument.load(readFileSync(await sheetOf(specimens.map(([, text]) => text))));
    let codes = 0;
    for (const [, object] of pdf.context.enumerateIndirectObjects()) {
      if (!(object instanceof PDFDict) || object.get(PDFName.of('Subtype')) !== PDFName.of('CIDFontType2')) continue;
      const map = pdf.context.lookup(object.get(PDFName.of('CIDToGIDMap'))) as PDFRawStream;
      const bytes = decodePDFRawStream(map).decode();
      for (let code = 1; code < bytes.length / 2; code += 1) {
        codes += 1;
        expect((bytes[code * 2] ?? 0) * 256 + (bytes[code * 2 + 1] ?? 0)).toBeGreaterThan(0);
      }
      const widths = pdf.context.lookup(object.get(PDFName.of('W')), PDFArray);
      expect(widths.lookup(1, PDFArray).size()).toBe(bytes.length / 2);
    }
    expect(codes).toBeGreaterThan(120);
  });

  it('come back whatever is written from the left, broken over as many lines as it needs', async () => {
    const word = fc.constantFrom(
      'Ines',
      'Đặng',
      'Ωmega',
      'Щука',
      'क्षत्रिय',
      '山田',
      '김민준',
      'น้ำ',
      'ẹ̄́',
      '42',
      'ﬁn',
      '€',
      '“so”',
    );
    await fc.assert(
      fc.asyncProperty(fc.array(word, { minLength: 1, maxLength: 60 }), async (words) => {
        const text = words.join(' ');
        const letters = (given: string) => given.normalize('NFC').replace(/\s+/g, '').replace(/\f/g, '');
        // An old ligature may come back as the letters that it stands for.
        const found = letters(readBack(await sheetOf([text]))).normalize('NFKC');
        expect(found).toContain(letters(text).normalize('NFKC'));
      }),
      { numRuns: runsOf(20) },
    );
  });

  it('are broken within their measure, in Thai between words, and never lose one', () => {
    for (const text of ['ยาวมากๆ'.repeat(40), 'x'.repeat(300), '山'.repeat(200), 'A word and another. '.repeat(30)]) {
      const lines = layOut(text, { style: 'text', size: 12, width: 200 });
      expect(lines.length).toBeGreaterThan(2);
      for (const line of lines) expect(line.width).toBeLessThanOrEqual(200);
      expect(
        lines
          .map((line) => line.text)
          .join('')
          .replace(/\s/g, ''),
      ).toBe(text.replace(/\s/g, ''));
    }
    const [line] = layOut('ภูเก็ตสมชาย', { style: 'text', size: 12, width: 50 });
    expect(line?.text).toBe('ภูเก็ต');
    expect(layOut('', { style: 'text', size: 12 })).toMatchObject([{ text: '', width: 0 }]);
    // Narrower than a letter: one letter a line, and an end.
    expect(layOut('Ada', { style: 'text', size: 12, width: 1 }).map(({ text }) => text)).toEqual(['A', 'd', 'a']);
  });

  it('are Han letters in the way of whoever writes them', () => {
    const faceOf = (text: string, zone: string) => itemise(text, 'text', hanLanguageIn(zone)).items[0]?.face.name;
    expect(faceOf('骨', 'Asia/Tokyo')).toBe('NotoSansJP');
    expect(faceOf('骨', 'Asia/Seoul')).toBe('NotoSansKR');
    expect(faceOf('骨', 'Asia/Taipei')).toBe('NotoSansTC');
    expect(faceOf('骨', 'Europe/Oslo')).toBe('NotoSansSC');
    // Kana tells it whatever the zone, and one text is set in one font.
    expect(new Set(itemise('骨の', 'text', 'zh-Hans').items.map(({ face }) => face.name))).toEqual(
      new Set(['NotoSansJP']),
    );
  });
});

describe('a letter that cannot be set', () => {
  it('is named: pictures, what turns or hides others, halves, private places, forms that no font draws', () => {
    for (const [text, letter] of [
      ['縄 🚡 x', '🚡'],
      ['a\u202Eb', '\u202E'],
      ['a\uFEFF', '\uFEFF'],
      ['\uD83D', '\uD83D'],
      ['\uE000', '\uE000'],
      ['a\u0000', '\u0000'],
      ['1\uFE0F\u20E3', '\uFE0F'],
      ['𐎠', '𐎠'],
      ['骨\u{E01EF}', '\u{E01EF}'],
    ] as const)
      expect(unsettable(text), JSON.stringify(text)).toBe(letter);
    for (const [, text] of specimens) expect(unsettable(text)).toBeNull();
    expect(unsettable('two\nlines\tand a tab')).toBeNull();
  });

  it('stands in the evidence as its code and name, never as a box and never as nothing', async () => {
    expect(spelled('縄 🚡\u202E x')).toBe('縄 [U+1F6A1 aerial tramway][U+202E right-to-left override] x');
    expect(readBack(await sheetOf(['seen 🚡 there']))).toContain('seen [U+1F6A1 aerial tramway] there');
  });

  it('is never among what is left after it was spelled out, whatever was written', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 40 }), (text) => {
        expect(unsettable(spelled(text.replace(/[\n\r\t\u2028\u2029]/g, ' ')))).toBeNull();
      }),
      { numRuns: runsOf(200) },
    );
  });
});

describe('the text of a document', () => {
  const storyOf = (texts: readonly string[], marks: object = {}): Story => ({
    format: 1,
    blocks: texts.map((text, i) => ({ id: `b${i}`, kind: 'paragraph', level: 0, runs: [{ text, marks }] })),
  });
  const rendered = async (story: Story, title = 'Letters') => {
    const into = fresh();
    const facts = { number: 'MR-LOG-001', revision: 'A', version: 1, at: 0 };
    await renderText({ kind: 'text', story, title, ...facts, into });
    execFileSync('qpdf', ['--check', into], { stdio: 'ignore' });
    return readBack(into);
  };
  const settable = [
    'Nguyễn Thị Hồng Ánh, Đặng Quỳnh',
    'Ἀλέξανδρος ᾧ Ὀδυσσεύς Ωμέγα ϗ',
    'Щербакова Ѣ Ђорђе Ґ Ӹ Ѡ',
    'ƀ Ǆ ǰ ɐ ẞ ꞌ q̃',
    '≤ ≥ ≠ → ± 3 × 10⁻² °C µm Ω ∑ ✓ № ½',
    '山田太郎やまだ 张伟 김민준',
  ];

  it('comes back whole in Latin, Greek, Cyrillic, Han letters, Hangul and signs, in every cut', async () => {
    for (const marks of [
      {},
      { bold: true as const },
      { italic: true as const },
      { bold: true, italic: true } as const,
    ]) {
      expect(unsetInStory(storyOf(settable, marks))).toEqual([]);
      const text = squeezed(await rendered(storyOf(settable, marks), 'Ѣ ≤ 山'));
      for (const line of settable) expect(text).toContain(squeezed(line));
      expect(text).toContain('MR-LOG-001 · Ѣ ≤ 山');
    }
  });

  it('loses what shows nothing, and nothing else', async () => {
    expect(await rendered(storyOf(['in\u00ADvisible and zero\u200Bwidth']))).toContain('invisible and zerowidth');
  });

  it('is refused with each letter that cannot be set, once a block', () => {
    expect(unsetInStory(storyOf(['Rope 🚡 and 🚡, then شكرا', 'fine', 'ẹ̄́']))).toEqual([
      { block: 'b0', letter: '🚡' },
      ...[...'شكرا'].map((letter) => ({ block: 'b0', letter })),
      { block: 'b2', letter: 'ẹ̄́' },
    ]);
    expect(unsetInStory(storyOf(['\u0E19']))).toEqual([{ block: 'b0', letter: '\u0E19' }]);
    expect(unsetInStory(storyOf(['x'.repeat(100), '🚡'.repeat(100)]))).toHaveLength(1);
    expect(unsetInLine('Wind log')).toBeNull();
    expect(unsetInLine('Wind 🚡 log')).toBe('🚡');
  });
});
