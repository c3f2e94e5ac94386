import type { HanLanguage } from '@/core/text/hanLanguage';
import { type Face, facesFor, type Style } from './faces';

/** A letter that no font of ours can set. */
export class UnsetLetter extends Error {
  constructor(
    readonly letter: string,
    /** Where it stands, in UTF-16 units. */
    readonly at: number,
  ) {
    super(`no font has the letter ${codeOf(letter)}`);
  }
}

/** A letter's code as the standard writes it: U+1F6A1. */
export function codeOf(letter: string): string {
  return `U+${(letter.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, '0')}`;
}

/** What a reader takes as one letter (UAX #29), with the font that sets it and its script (ISO 15924). */
export interface Item {
  readonly start: number;
  readonly end: number;
  readonly face: Face;
  readonly script: string;
}

const scripts = {
  Latn: /\p{sc=Latin}/u,
  Grek: /\p{sc=Greek}/u,
  Cyrl: /\p{sc=Cyrillic}/u,
  Arab: /\p{sc=Arabic}/u,
  Hebr: /\p{sc=Hebrew}/u,
  Deva: /\p{sc=Devanagari}/u,
  Thai: /\p{sc=Thai}/u,
  Hani: /\p{sc=Han}/u,
  Hira: /\p{sc=Hiragana}/u,
  Kana: /\p{sc=Katakana}/u,
  Hang: /\p{sc=Hangul}/u,
  Bopo: /\p{sc=Bopomofo}/u,
} as const;

/** Letters as a reader takes them (UAX #29). */
export const graphemes = new Intl.Segmenter('und', { granularity: 'grapheme' });
/** Would turn or hide other letters. */
const turning = /[\u202A-\u202E\u2066-\u2069\uFEFF\uFFFC\uFFFD]/u;
/** Pictures, not letters. */
const picture = /\p{Emoji_Presentation}|\uFE0F|\p{Regional_Indicator}|\u20E3/u;
/** Controls, halves of pairs, private and unassigned places. */
const nothing = /[\p{Cc}\p{Cs}\p{Co}\p{Cn}]/u;
const ignorable = /^\p{Default_Ignorable_Code_Point}$/u;
const shared = /^[\p{sc=Zyyy}\p{sc=Zinh}]+$/u;
const variants = /(.)([\uFE00-\uFE0E\u{E0100}-\u{E01EF}])/gu;
const hanOf = /[\p{sc=Han}\p{sc=Hira}\p{sc=Kana}\p{sc=Hang}][\uFE00-\uFE0E\u{E0100}-\u{E01EF}]?/gu;

const pointOf = (text: string) => text.codePointAt(0) ?? 0;

/** Throws `UnsetLetter` for what no font is asked for: pictures, controls, and what would turn or hide other letters. */
export function neverSet(segment: string, index: number): void {
  for (const never of [turning, picture, nothing]) {
    const letter = never.exec(segment);
    if (letter) throw new UnsetLetter(String.fromCodePoint(pointOf(segment.slice(letter.index))), index + letter.index);
  }
}

/** In whose way the Han letters of a text are drawn: kana and hangul tell it, else the language that is given. */
function hanLanguageOf(text: string, given: HanLanguage): HanLanguage {
  if (/[\p{sc=Hira}\p{sc=Kana}]/u.test(text)) return 'ja';
  return /\p{sc=Hang}/u.test(text) ? 'ko' : given;
}

/**
 * The letters of a text, each with its font and script, and the language for its Han letters. Spaces, digits and points
 * stay in the font of what stands before them. Throws `UnsetLetter` for the first letter that cannot be set.
 */
export function itemise(
  text: string,
  style: Style,
  given: HanLanguage,
): { readonly items: readonly Item[]; readonly language: HanLanguage } {
  const language = hanLanguageOf(text, given);
  const { own, common, han } = facesFor(style, language);
  const order = [own, ...common, ...han];
  // A name in Han letters is set in one font, not in two ways of drawing.
  const all = text.match(hanOf);
  const whole =
    all &&
    han.find((face) =>
      all.every((one) => {
        const [letter = '', selector] = one;
        return face.has(pointOf(letter)) && (!selector || face.hasVariant(pointOf(letter), pointOf(selector)));
      }),
    );
  if (whole) order.splice(1 + common.length, 0, whole);
  const found: { start: number; end: number; face: Face; script: string | null }[] = [];
  for (const { segment, index } of graphemes.segment(text)) {
    neverSet(segment, index);
    const before = found.at(-1);
    const covers = covering(segment, own);
    // Marks between letters and spaces belong to what stands before them.
    const face =
      shared.test(segment) && before && covers(before.face)
        ? before.face
        : order.find((candidate) => covers(candidate));
    if (!face) throw unset(segment, index, order);
    const script = Object.entries(scripts).find(([, letters]) => letters.test(segment))?.[0] ?? null;
    found.push({ start: index, end: index + segment.length, face, script });
  }
  let script = found.find((item) => item.script !== null)?.script ?? 'Latn';
  return {
    language,
    items: found.map((item) => {
      script = item.script ?? script;
      return { ...item, script };
    }),
  };
}

/** Whether a font sets a letter whole: all that belongs to it, and the form that a selector asks for. */
function covering(segment: string, own: Face): (face: Face) => boolean {
  const composed = segment.normalize('NFC');
  const forms = [segment, composed, segment.normalize('NFD')].map((form) =>
    [...form].filter((letter) => !ignorable.test(letter)),
  );
  const asked = [...segment.matchAll(variants)];
  // Our own hands have no places for marks that stay apart from their letter.
  const apart = /\p{M}/u.test(composed);
  return (face) =>
    !(apart && face === own) &&
    forms.some((letters) => letters.length > 0 && letters.every((letter) => face.has(pointOf(letter)))) &&
    asked.every(([, letter = '', selector = '']) => face.hasVariant(pointOf(letter), pointOf(selector)));
}

function unset(segment: string, index: number, order: readonly Face[]): UnsetLetter {
  const variant = [...segment.matchAll(variants)][0];
  if (variant) return new UnsetLetter(variant[2] ?? '', index + variant.index + (variant[1]?.length ?? 0));
  const letter =
    [...segment].find((one) => !ignorable.test(one) && !order.some((face) => face.has(pointOf(one)))) ??
    String.fromCodePoint(pointOf(segment));
  return new UnsetLetter(letter, index + segment.indexOf(letter));
}

/** A text as it is set: composed, its line ends and tabs as spaces. */
function oneLine(text: string): string {
  return text.normalize('NFC').replace(/[\t\n\r\u2028\u2029]/g, ' ');
}

/** The first letter of a text that cannot be set; null when all can. */
export function unsettable(text: string): string | null {
  try {
    itemise(oneLine(text), 'text', 'zh-Hans');
    return null;
  } catch (fault) {
    if (fault instanceof UnsetLetter) return fault.letter;
    throw fault;
  }
}
