import { PDFDocument, PDFName, type PDFPage } from '@cantoo/pdf-lib';
import type { HanLanguage } from '@/core/text/hanLanguage';
import type { Style } from './faces';
import { type Line, layOut, oneLineOf } from './layOut';
import { spelled } from './spelled';
import { LineWriter } from './writer';

const page = { width: 595.28, height: 841.89, margin: 56 } as const;
const inks = { ink: '0.09 0.141 0.169', quiet: '0.333 0.388 0.42', hairline: '0.894 0.871 0.824' } as const;

interface TextOptions {
  readonly size?: number;
  readonly style?: Style;
  readonly ink?: 'ink' | 'quiet';
  /** From the left edge of the text, in points. */
  readonly indent?: number;
}

/** A piece of the sheet that is measured before it is placed. */
interface Piece {
  readonly height: number;
  readonly draw: (x: number, top: number) => string;
}

/**
 * A sheet of A4 that grows page by page, in letters of any script: texts, rows of a label and its value, hairlines; the
 * number of each page and of all at its foot. The same calls give the same bytes.
 */
export class Sheet {
  readonly #writer = new LineWriter();
  readonly #pages: string[][] = [[]];
  #y: number = page.margin;

  constructor(readonly language: HanLanguage) {}

  get #width(): number {
    return page.width - 2 * page.margin;
  }

  /** Places pieces beneath each other, on one page where they fit on one. */
  place(pieces: readonly Piece[]): void {
    const whole = pieces.reduce((sum, piece) => sum + piece.height, 0);
    const bottom = page.height - page.margin;
    if (this.#y + whole > bottom && whole <= bottom - page.margin) this.#turn();
    for (const piece of pieces) {
      if (this.#y + piece.height > bottom) this.#turn();
      this.#pages.at(-1)?.push(piece.draw(page.margin, this.#y));
      this.#y += piece.height;
    }
  }

  #turn(): void {
    this.#pages.push([]);
    this.#y = page.margin;
  }

  /** A text, broken into lines; what no font has stands as its code and name. */
  text(text: string, { size = 9, style = 'text', ink = 'ink', indent = 0 }: TextOptions = {}): Piece[] {
    const lines = layOut(spelled(text), { style, size, width: this.#width - indent, language: this.language });
    return lines.map((line) => this.#line(line, size, ink, indent, this.#width - indent));
  }

  /** A label beside its value. */
  row(label: string, value: string, indent = 118): Piece[] {
    const [first, ...more] = this.text(value, { indent });
    const name = this.text(label, { size: 8.5, ink: 'quiet' })[0];
    if (!first || !name) return [];
    const both: Piece = { height: first.height, draw: (x, top) => `${name.draw(x, top)}\n${first.draw(x, top)}` };
    return [both, ...more];
  }

  rule(): Piece {
    return {
      height: 13,
      draw: (x, top) => {
        const y = (page.height - top - 6).toFixed(2);
        return `q ${inks.hairline} RG 0.5 w ${x} ${y} m ${(x + this.#width).toFixed(2)} ${y} l S Q`;
      },
    };
  }

  gap(height: number): Piece {
    return { height, draw: () => '' };
  }

  #line(line: Line, size: number, ink: keyof typeof inks, indent: number, width: number): Piece {
    return {
      height: size * 1.4,
      draw: (x, top) => {
        // What is read from the right begins at the right edge.
        const from = x + indent + (line.rightToLeft ? width - line.width : 0);
        const baseline = page.height - top - size * 1.05;
        return `BT ${inks[ink]} rg\n${this.#writer.line(line, size, from, baseline)}\nET`;
      },
    };
  }

  /** The sheet as a PDF of this title, made at this instant (milliseconds). */
  async bytes(title: string, at: number): Promise<Uint8Array> {
    const pdf = await PDFDocument.create({ updateMetadata: false });
    pdf.setTitle(title);
    pdf.setProducer('Avenda');
    pdf.setCreator('Avenda');
    pdf.setCreationDate(new Date(at));
    const pages = this.#pages.map((content, i): PDFPage => {
      const line = oneLineOf(`${i + 1} of ${this.#pages.length}`, { style: 'text', size: 8 });
      const foot = this.#line(line, 8, 'quiet', this.#width - line.width, line.width);
      const made = pdf.addPage([page.width, page.height]);
      const all = [...content, foot.draw(page.margin, page.height - page.margin + 20)].filter(Boolean).join('\n');
      made.node.set(PDFName.of('Contents'), pdf.context.register(pdf.context.flateStream(all)));
      return made;
    });
    const fonts = this.#writer.finish({ context: pdf.context, add: (object) => pdf.context.register(object) });
    const resources = pdf.context.register(pdf.context.obj({ Font: fonts } as never));
    for (const made of pages) made.node.set(PDFName.of('Resources'), resources);
    return pdf.save({ useObjectStreams: false, addDefaultPage: false });
  }
}
