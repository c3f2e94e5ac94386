import { type Block, blockText, type Story, type TextRun } from '@/core/text/story';
import { fontFiles } from '../children/fonts';
import { Face } from './faces';
import { graphemes, neverSet, UnsetLetter } from './itemise';

// Texts of documents are laid out by a library that sets letter beside letter. What needs more (scripts that join or
// stack, or are read from the right) cannot be set in them yet and is refused before a version is made.

/** The families of document text in the order in which they are asked for a letter, as the library names their cuts. */
export const documentFamilies = {
  Literata: {
    normal: fontFiles.serif,
    bold: fontFiles.serifBold,
    italics: fontFiles.serifItalic,
    bolditalics: fontFiles.serifBoldItalic,
  },
  NotoSerif: {
    normal: fontFiles.notoSerif,
    bold: fontFiles.notoSerifBold,
    italics: fontFiles.notoSerifItalic,
    bolditalics: fontFiles.notoSerifBoldItalic,
  },
  NotoSans: oneCut(fontFiles.noto),
  NotoSansJP: oneCut(fontFiles.japanese),
  NotoSansSC: oneCut(fontFiles.simplified),
  NotoSansTC: oneCut(fontFiles.traditional),
  NotoSansKR: oneCut(fontFiles.korean),
} as const;
type Family = keyof typeof documentFamilies;

function oneCut(file: string) {
  return { normal: file, bold: file, italics: file, bolditalics: file } as const;
}

export type Cut = keyof (typeof documentFamilies)['Literata'];

/** The cut that a run's marks ask for. */
export function cutOf(marks: TextRun['marks']): Cut {
  if (marks.bold) return marks.italic ? 'bolditalics' : 'bold';
  return marks.italic ? 'italics' : 'normal';
}

const faces = new Map<string, Face>();
function faceOf(family: Family, cut: Cut): Face {
  const file = documentFamilies[family][cut];
  let face = faces.get(file);
  if (!face) {
    face = new Face(family, file);
    faces.set(file, face);
  }
  return face;
}

const families = Object.keys(documentFamilies) as Family[];
const apart = /\p{M}/gu;
const invisible = /\p{Default_Ignorable_Code_Point}/gu;
const besideEachOther =
  /^[\p{sc=Latin}\p{sc=Greek}\p{sc=Cyrillic}\p{sc=Han}\p{sc=Hiragana}\p{sc=Katakana}\p{sc=Hangul}\p{sc=Bopomofo}\p{sc=Common}\p{sc=Inherited}]+$/u;

interface Part {
  readonly family: Family;
  readonly text: string;
}

/**
 * A text as parts of one font each, without what shows nothing (a soft hyphen would be drawn). Throws `UnsetLetter` for the
 * first letter that cannot be set.
 */
export function documentParts(text: string, cut: Cut): Part[] {
  const own = faceOf('Literata', cut);
  let simple = true;
  for (const letter of text) {
    const point = letter.codePointAt(0) ?? 0;
    if (point < 0x7f || (point < 0x300 && point > 0xa0 && point !== 0xad && own.has(point))) continue;
    simple = false;
    break;
  }
  if (simple) return text === '' ? [] : [{ family: 'Literata', text }];
  const parts: { family: Family; text: string }[] = [];
  for (const { segment, index } of graphemes.segment(text)) {
    if (/^[\t\n\r]+$/.test(segment)) {
      const last = parts.at(-1);
      if (last) last.text += segment;
      else parts.push({ family: 'Literata', text: segment });
      continue;
    }
    neverSet(segment, index);
    const composed = segment.normalize('NFC').replace(invisible, '');
    if (composed === '') continue;
    const marks = composed.match(apart)?.length ?? 0;
    const letters = [...composed];
    const family =
      marks < 2 && besideEachOther.test(composed)
        ? families.find(
            (candidate) =>
              !(marks > 0 && candidate === 'Literata') &&
              letters.every((letter) => faceOf(candidate, cut).has(letter.codePointAt(0) ?? 0)),
          )
        : undefined;
    if (!family) throw new UnsetLetter(segment, index);
    const last = parts.at(-1);
    if (last?.family === family) last.text += composed;
    else parts.push({ family, text: composed });
  }
  return parts;
}

/** A letter of a story that cannot be set, and its block. */
interface UnsetInStory {
  readonly block: string;
  readonly letter: string;
}

const mostNamed = 20;

/** The letters of a story that cannot be set, each once a block, the first twenty of them. */
export function unsetInStory(story: Story): UnsetInStory[] {
  const found: UnsetInStory[] = [];
  for (const block of story.blocks) {
    for (const letter of unsetIn(block)) {
      found.push({ block: block.id, letter });
      if (found.length === mostNamed) return found;
    }
  }
  return found;
}

function unsetIn(block: Block): ReadonlySet<string> {
  const letters = new Set<string>();
  // Most blocks are as they should be, and are not taken apart.
  if (/^[\n\t -~]*$/.test(blockText(block))) return letters;
  for (const { text, marks } of block.runs) {
    const cut = cutOf(marks);
    for (let rest = text; rest; ) {
      try {
        documentParts(rest, cut);
        break;
      } catch (fault) {
        if (!(fault instanceof UnsetLetter)) throw fault;
        letters.add(fault.letter);
        rest = rest.slice(fault.at + fault.letter.length);
      }
    }
  }
  return letters;
}

/** The first letter of a line (a title) that cannot be set; null when all can. */
export function unsetInLine(text: string): string | null {
  try {
    documentParts(text, 'bold');
    return null;
  } catch (fault) {
    if (fault instanceof UnsetLetter) return fault.letter;
    throw fault;
  }
}
