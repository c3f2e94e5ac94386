import { createHash } from 'node:crypto';
import {
  decodePDFRawStream,
  PDFArray,
  PDFContext,
  PDFDict,
  PDFName,
  PDFNumber,
  type PDFObject,
  PDFObjectParser,
  PDFRawStream,
  PDFRef,
} from '@cantoo/pdf-lib';

export const name = (text: string) => PDFName.of(text);

/** Why a PDF is not taken, or cannot be grown: a code, and what was found. */
export class PdfRefused extends Error {
  constructor(
    readonly code: string,
    readonly detail = '',
  ) {
    super(detail ? `${code}: ${detail}` : code);
  }
}

/** The most that one stream may unpack to. */
const unpackLimit = 256 * 1024 * 1024;

/**
 * The bytes of a stream unpacked, predictors undone (ISO 32000-2, 7.4.4.4), which the library leaves out although nearly
 * every cross-reference stream has one.
 */
export function unpacked(stream: PDFRawStream): Uint8Array {
  const bytes = decodePDFRawStream(stream).decode();
  if (bytes.length > unpackLimit) throw new PdfRefused('too-large-inside');
  const { context } = stream.dict;
  const given = context.lookup(stream.dict.get(name('DecodeParms')));
  const parameters =
    given instanceof PDFArray
      ? given
          .asArray()
          .map((one) => context.lookup(one))
          .find((one) => one instanceof PDFDict)
      : given;
  const number = (key: string, usual: number): number => {
    const value = parameters instanceof PDFDict ? context.lookup(parameters.get(name(key))) : undefined;
    return value instanceof PDFNumber ? value.asNumber() : usual;
  };
  const predictor = number('Predictor', 1);
  if (predictor === 1) return bytes;
  if (predictor < 10) throw new PdfRefused('xref', `predictor ${predictor}`);
  const pixel = Math.max(1, (number('Colors', 1) * number('BitsPerComponent', 8)) >> 3);
  const width = (number('Columns', 1) * number('Colors', 1) * number('BitsPerComponent', 8) + 7) >> 3;
  const rows = Math.floor(bytes.length / (width + 1));
  const out = new Uint8Array(rows * width);
  for (let row = 0; row < rows; row += 1) {
    const kind = bytes[row * (width + 1)];
    for (let i = 0; i < width; i += 1) {
      const raw = bytes[row * (width + 1) + 1 + i] ?? 0;
      const left = i >= pixel ? (out[row * width + i - pixel] ?? 0) : 0;
      const up = row > 0 ? (out[(row - 1) * width + i] ?? 0) : 0;
      const corner = row > 0 && i >= pixel ? (out[(row - 1) * width + i - pixel] ?? 0) : 0;
      out[row * width + i] = raw + predicted(kind, left, up, corner);
    }
  }
  return out;
}

/** The predictors of PNG (ISO/IEC 15948, 9). */
function predicted(kind: number | undefined, left: number, up: number, corner: number): number {
  if (kind === 1) return left;
  if (kind === 2) return up;
  if (kind === 3) return (left + up) >> 1;
  if (kind !== 4) return 0;
  const [a, b, c] = [Math.abs(up - corner), Math.abs(left - corner), Math.abs(left + up - 2 * corner)];
  return a <= b && a <= c ? left : b <= c ? up : corner;
}

interface Entry {
  /** 0 free, 1 at an offset, 2 in an object stream. */
  readonly kind: number;
  readonly where: number;
  readonly generation: number;
}

/**
 * A PDF read through its own chain of cross-references (ISO 32000-2, 7.5), only what is asked for, and grown by one
 * increment of exactly the objects given. The library parses and prints single objects; reading and saving the file are
 * done here, because the library takes another twin of an object than readers do and rewrites what it need not.
 */
export class Revision {
  readonly bytes: Buffer;
  readonly context: PDFContext;
  readonly changed = new Map<PDFRef, PDFObject>();
  readonly table = new Map<number, Entry>();
  trailer: PDFDict;
  root: PDFRef;
  /** The form of the newest section: the increment's takes the same. */
  readonly kind: 'table' | 'stream';
  readonly startxref: number;
  #size = 0;
  readonly #objectStreams = new Map<number, { bytes: Buffer; offsets: Map<number, number> }>();

  constructor(given: Uint8Array) {
    this.bytes = Buffer.from(given.buffer, given.byteOffset, given.length);
    if (this.bytes.subarray(0, 5).toString('latin1') !== '%PDF-') throw new PdfRefused('header');
    this.context = PDFContext.create();
    this.#readLazily();
    const end = [
      ...this.bytes
        .subarray(-2048)
        .toString('latin1')
        .matchAll(/startxref\s+(\d+)\s+%%EOF/g),
    ].at(-1);
    if (!end) throw new PdfRefused('xref', 'no startxref');
    this.startxref = Number(end[1]);
    const { trailer, kind } = this.#readSections();
    this.trailer = trailer;
    this.kind = kind;
    if (trailer.has(name('Encrypt'))) throw new PdfRefused('encrypted');
    const root = trailer.get(name('Root'));
    if (!(root instanceof PDFRef)) throw new PdfRefused('xref', 'no catalog');
    this.root = root;
    this.context.largestObjectNumber = this.#size - 1;
  }

  /** Objects are read when they are first looked up. */
  #readLazily(): void {
    const { context } = this;
    const plain = context.lookup.bind(context) as (ref: unknown, ...types: unknown[]) => PDFObject | undefined;
    const objects = (context as unknown as { indirectObjects: Map<PDFRef, PDFObject> }).indirectObjects;
    const busy = new Set<PDFRef>();
    (context as { lookup: unknown }).lookup = (ref: unknown, ...types: unknown[]) => {
      if (ref instanceof PDFRef && !objects.has(ref) && !busy.has(ref)) {
        busy.add(ref);
        try {
          const found = this.#read(ref);
          if (found) objects.set(ref, found);
        } finally {
          busy.delete(ref);
        }
      }
      return plain(ref, ...types);
    };
  }

  #parserAt(bytes: Buffer, offset: number) {
    const parser = PDFObjectParser.forBytes(bytes, this.context);
    const inner = parser as unknown as { bytes: { moveTo(offset: number): void }; skipWhitespaceAndComments(): void };
    inner.bytes.moveTo(offset);
    inner.skipWhitespaceAndComments();
    return parser;
  }

  #headAt(offset: number) {
    const found = /^\s*(\d+)\s+(\d+)\s+obj\b/.exec(this.bytes.subarray(offset, offset + 64).toString('latin1'));
    return found && { number: Number(found[1]), generation: Number(found[2]), body: offset + (found[0]?.length ?? 0) };
  }

  #readSections(): { trailer: PDFDict; kind: 'table' | 'stream' } {
    const seen = new Set<number>();
    let newest: { trailer: PDFDict; kind: 'table' | 'stream' } | null = null;
    for (let offset: number | undefined = this.startxref; offset !== undefined; ) {
      if (seen.has(offset) || seen.size > 2000) throw new PdfRefused('xref', 'the chain loops');
      seen.add(offset);
      const local = new Map<number, Entry>();
      const isTable = /^\s*xref\b/.test(this.bytes.subarray(offset, offset + 16).toString('latin1'));
      const dict = isTable ? this.#readTable(offset, local) : this.#readStream(offset, local, false);
      for (const [number, entry] of local) if (!this.table.has(number)) this.table.set(number, entry);
      this.#size = Math.max(this.#size, numberIn(dict, 'Size') ?? 0);
      newest ??= { trailer: dict, kind: isTable ? 'table' : 'stream' };
      offset = numberIn(dict, 'Prev');
    }
    for (const number of this.table.keys()) if (number >= this.#size) this.#size = number + 1;
    if (!newest) throw new PdfRefused('xref', 'no section');
    return newest;
  }

  #readTable(offset: number, into: Map<number, Entry>): PDFDict {
    const end = this.bytes.indexOf('trailer', offset);
    if (end < 0) throw new PdfRefused('xref', 'no trailer');
    const text = this.bytes
      .subarray(offset, end)
      .toString('latin1')
      .replace(/^\s*xref/, '');
    let number = 0;
    for (const token of text.match(/\d+\s+\d+(?:\s+[nf])?/g) ?? []) {
      const [first, second, kind] = token.split(/\s+/);
      if (!kind) {
        number = Number(first);
        continue;
      }
      if (!into.has(number))
        into.set(number, { kind: kind === 'n' ? 1 : 0, where: Number(first), generation: Number(second) });
      number += 1;
    }
    const dict = this.#parserAt(this.bytes, end + 7).parseObject();
    if (!(dict instanceof PDFDict)) throw new PdfRefused('xref', 'no trailer');
    // A hybrid file says in a stream what older readers shall not see (7.5.8.4).
    const hidden = numberIn(dict, 'XRefStm');
    if (hidden !== undefined) this.#readStream(hidden, into, true);
    return dict;
  }

  #readStream(offset: number, into: Map<number, Entry>, overFree: boolean): PDFDict {
    const head = this.#headAt(offset);
    if (!head) throw new PdfRefused('xref', `no section at ${offset}`);
    const stream = this.#parserAt(this.bytes, head.body).parseObject();
    if (!(stream instanceof PDFRawStream) || stream.dict.get(name('Type')) !== name('XRef'))
      throw new PdfRefused('xref', `no section at ${offset}`);
    const numbers = (key: string) =>
      (stream.dict.lookup(name(key)) as PDFArray | undefined)?.asArray().map((one) => (one as PDFNumber).asNumber());
    const [a = 0, b = 0, c = 0] = numbers('W') ?? [];
    const index = numbers('Index') ?? [0, numberIn(stream.dict, 'Size') ?? 0];
    const bytes = unpacked(stream);
    let at = 0;
    const next = (width: number, usual: number): number => {
      if (width === 0) return usual;
      let value = 0;
      for (let i = 0; i < width; i += 1) value = value * 256 + (bytes[at++] ?? 0);
      return value;
    };
    for (let i = 0; i < index.length; i += 2)
      for (let k = 0; k < (index[i + 1] ?? 0); k += 1) {
        if (at >= bytes.length) throw new PdfRefused('xref', 'the section is too short');
        const [kind, where, generation] = [next(a, 1), next(b, 0), next(c, 0)];
        const number = (index[i] ?? 0) + k;
        const old = into.get(number);
        if (!old || (overFree && old.kind === 0)) into.set(number, { kind, where, generation });
      }
    return stream.dict;
  }

  #read(ref: PDFRef): PDFObject | undefined {
    const entry = this.table.get(ref.objectNumber);
    if (!entry || entry.kind === 0) return undefined;
    if (entry.kind === 1) {
      if (entry.generation !== ref.generationNumber) return undefined;
      const head = this.#headAt(entry.where);
      if (head?.number !== ref.objectNumber)
        throw new PdfRefused('xref', `object ${ref.objectNumber} is not where the table says`);
      return this.#parserAt(this.bytes, head.body).parseObject();
    }
    if (ref.generationNumber !== 0) return undefined;
    let packed = this.#objectStreams.get(entry.where);
    if (!packed) {
      const stream = this.context.lookup(PDFRef.of(entry.where));
      if (!(stream instanceof PDFRawStream)) throw new PdfRefused('xref', 'an object stream is missing');
      const bytes = Buffer.from(unpacked(stream));
      const first = numberIn(stream.dict, 'First') ?? 0;
      const numbers = bytes.subarray(0, first).toString('latin1').trim().split(/\s+/).map(Number);
      const offsets = new Map<number, number>();
      for (let i = 0; i + 1 < numbers.length; i += 2) offsets.set(numbers[i] ?? 0, first + (numbers[i + 1] ?? 0));
      packed = { bytes, offsets };
      this.#objectStreams.set(entry.where, packed);
    }
    const at = packed.offsets.get(ref.objectNumber);
    return at === undefined ? undefined : this.#parserAt(packed.bytes, at).parseObject();
  }

  get(ref: PDFObject | undefined): PDFObject | undefined {
    return this.context.lookup(ref);
  }

  dict(ref: PDFObject | undefined): PDFDict {
    const found = this.get(ref);
    if (!(found instanceof PDFDict)) throw new PdfRefused('object', `${ref} is no dictionary`);
    return found;
  }

  /** The dictionary under a key, or undefined when there is none. */
  inner(dict: PDFDict | undefined, key: string): PDFDict | undefined {
    const found = this.get(dict?.get(name(key)));
    return found instanceof PDFDict ? found : undefined;
  }

  list(dict: PDFDict, key: string): PDFObject[] {
    const found = this.get(dict.get(name(key)));
    return found instanceof PDFArray ? found.asArray() : [];
  }

  add(object: PDFObject): PDFRef {
    const ref = this.context.nextRef();
    this.context.assign(ref, object);
    this.changed.set(ref, object);
    return ref;
  }

  /** Takes an object that is there into the increment; what is changed in it afterwards is saved. */
  touch(ref: PDFRef): PDFDict {
    const found = this.dict(ref);
    this.changed.set(ref, found);
    return found;
  }

  /** The bytes with one increment more (7.5.6), or as they were when nothing changed. The same changes give the same bytes. */
  save(): Buffer {
    // Objects that a font embedder put into the context by itself.
    for (const [ref, object] of this.context.enumerateIndirectObjects())
      if (ref.objectNumber >= this.#size && !this.changed.has(ref)) this.changed.set(ref, object);
    if (this.changed.size === 0) return this.bytes;
    const parts: Buffer[] = [];
    let offset = this.bytes.length;
    const put = (piece: Buffer) => {
      parts.push(piece);
      offset += piece.length;
    };
    if (this.bytes.at(-1) !== 10) put(Buffer.from('\n'));
    const rows: [number: number, generation: number, offset: number][] = [];
    const emit = (number: number, generation: number, object: PDFObject) => {
      rows.push([number, generation, offset]);
      const body = new Uint8Array(object.sizeInBytes());
      object.copyBytesInto(body, 0);
      put(Buffer.concat([Buffer.from(`${number} ${generation} obj\n`), body, Buffer.from('\nendobj\n')]));
    };
    const inOrder = [...this.changed].sort((a, b) => a[0].objectNumber - b[0].objectNumber);
    for (const [ref, object] of inOrder) emit(ref.objectNumber, ref.generationNumber, object);
    const kept: Record<string, PDFObject> = {};
    for (const key of ['Root', 'Info']) {
      const value = this.trailer.get(name(key));
      if (value) kept[key] = value;
    }
    const ids = this.get(this.trailer.get(name('ID')));
    if (ids instanceof PDFArray) {
      const digest = createHash('sha256').update(String(offset)).update(Buffer.concat(parts)).digest();
      kept.ID = this.context.obj([
        ids.get(0),
        this.context.obj(new Uint8Array(digest.subarray(0, 16)) as never),
      ] as never);
    }
    const at = offset;
    const size = this.context.largestObjectNumber + 1;
    if (this.kind === 'table') {
      let text = 'xref\n';
      for (const run of runsOf(rows)) {
        text += `${run[0]?.[0]} ${run.length}\n`;
        for (const [, generation, where] of run)
          text += `${String(where).padStart(10, '0')} ${String(generation).padStart(5, '0')} n \n`;
      }
      const trailer = this.context.obj({ ...kept, Size: size, Prev: this.startxref } as never);
      put(Buffer.from(`${text}trailer\n${trailer}\n`));
    } else {
      rows.push([size, 0, at]);
      const runs = runsOf(rows);
      const body = Buffer.alloc(rows.length * 7);
      runs.flat().forEach(([, generation, where], i) => {
        body[i * 7] = 1;
        body.writeUInt32BE(where, i * 7 + 1);
        body.writeUInt16BE(generation, i * 7 + 5);
      });
      const stream = this.context.stream(body, {
        ...kept,
        Type: 'XRef',
        Size: size + 1,
        Prev: this.startxref,
        W: [1, 4, 2],
        Index: runs.flatMap((run) => [run[0]?.[0] ?? 0, run.length]),
      } as never);
      const printed = new Uint8Array(stream.sizeInBytes());
      stream.copyBytesInto(printed, 0);
      put(Buffer.concat([Buffer.from(`${size} 0 obj\n`), printed, Buffer.from('\nendobj\n')]));
    }
    put(Buffer.from(`startxref\n${at}\n%%EOF\n`));
    return Buffer.concat([this.bytes, ...parts]);
  }
}

function runsOf<R extends readonly [number, number, number]>(rows: readonly R[]): R[][] {
  const runs: R[][] = [];
  for (const row of rows) {
    const last = runs.at(-1);
    if (last && (last.at(-1)?.[0] ?? -2) + 1 === row[0]) last.push(row);
    else runs.push([row]);
  }
  return runs;
}

export function numberIn(dict: PDFDict, key: string): number | undefined {
  const value = dict.lookup(name(key));
  return value instanceof PDFNumber ? value.asNumber() : undefined;
}
