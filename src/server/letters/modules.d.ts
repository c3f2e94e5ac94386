// Packages that ship without types: what we use of them.

declare module 'linebreak' {
  /** Line breaks of a text by UAX #14. */
  export default class LineBreaker {
    constructor(text: string);
    nextBreak(): { readonly position: number; readonly required: boolean } | null;
  }
}

declare module 'unicode-name' {
  /** The name of a code point in the Unicode Character Database; undefined when it has none. */
  export function unicodeName(point: number | string): string | undefined;
}
