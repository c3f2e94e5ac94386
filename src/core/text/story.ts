/**
 * A text is a flat story: block heads one after another, each with its runs of marked characters. Lists, headings
 * and indents are attributes of a head, never wrappers, so a split inserts a head, a join removes one, and nothing
 * ever needs balancing.
 */
export interface Story {
  /** The shape this text is written in; a reader lifts older ones. */
  readonly format: 1;
  readonly blocks: readonly Block[];
}

export interface Block {
  /** Unique in the story; survives editing. */
  readonly id: string;
  readonly kind: BlockKind;
  /** Headings: 1 to 3. List items: depth from 0 to 4. Paragraphs: 0. */
  readonly level: number;
  readonly runs: readonly TextRun[];
}

export const blockKinds = ['paragraph', 'heading', 'bullet', 'number'] as const;
export type BlockKind = (typeof blockKinds)[number];

export interface TextRun {
  readonly text: string;
  readonly marks: Marks;
}

export interface Marks {
  readonly bold?: true;
  readonly italic?: true;
  readonly link?: string;
}

export const storyLimits = { blocks: 20_000, characters: 2_000_000, runs: 60_000, link: 2_000 } as const;

/** A story with one empty paragraph. */
export function emptyStory(id: string): Story {
  return { format: 1, blocks: [{ id, kind: 'paragraph', level: 0, runs: [] }] };
}

function sameMarks(a: Marks, b: Marks): boolean {
  return a.bold === b.bold && a.italic === b.italic && a.link === b.link;
}

/** The level a kind of block may have, nearest to the one wanted. */
function fitLevel(kind: BlockKind, level: number): number {
  const whole = Number.isFinite(level) ? Math.round(level) : 0;
  if (kind === 'paragraph') return 0;
  return kind === 'heading' ? Math.min(3, Math.max(1, whole)) : Math.min(4, Math.max(0, whole));
}

/** Which addresses a link may have: web, mail and telephone; nothing that a reader would run. */
export function linkFits(link: string): boolean {
  return link.length <= storyLimits.link && /^(https?:\/\/|mailto:|tel:)[^\s]+$/i.test(link);
}

/**
 * The same text in its one normal form: no empty runs, neighbouring runs of the same marks joined, levels within
 * bounds, links that may not be links dropped, at least one block. Two stories with the same normal form are the same text.
 */
export function normal(story: Pick<Story, 'blocks'>): Story {
  const blocks = story.blocks.map((block) => {
    const runs: TextRun[] = [];
    for (const { text, marks } of block.runs) {
      if (text === '') continue;
      const kept = tidy(marks);
      const before = runs[runs.length - 1];
      if (before && sameMarks(before.marks, kept)) runs[runs.length - 1] = { text: before.text + text, marks: kept };
      else runs.push({ text, marks: kept });
    }
    return { id: block.id, kind: block.kind, level: fitLevel(block.kind, block.level), runs };
  });
  return { format: 1, blocks: blocks.length > 0 ? blocks : emptyStory('b1').blocks };
}

/** Whether two stories are the same text, block ids included. */
export function sameStory(a: Story, b: Story): boolean {
  return a === b || JSON.stringify(normal(a)) === JSON.stringify(normal(b));
}

function tidy(marks: Marks): Marks {
  return {
    ...(marks.bold ? { bold: true as const } : {}),
    ...(marks.italic ? { italic: true as const } : {}),
    ...(marks.link && linkFits(marks.link) ? { link: marks.link } : {}),
  };
}

export function blockText(block: Block): string {
  return block.runs.map((run) => run.text).join('');
}

/** The words of a story, one block a line. */
export function storyText(story: Story): string {
  return story.blocks.map(blockText).join('\n');
}

export interface OutlineEntry {
  readonly block: string;
  /** "1", "1.2", ... */
  readonly number: string;
  readonly level: number;
  readonly title: string;
}

/** The headings with their section numbers, in order. A level that is jumped over counts as 1. */
export function outline(story: Story): OutlineEntry[] {
  const counters = [0, 0, 0];
  const entries: OutlineEntry[] = [];
  for (const block of story.blocks) {
    if (block.kind !== 'heading') continue;
    const depth = fitLevel('heading', block.level);
    counters[depth - 1] = (counters[depth - 1] ?? 0) + 1;
    for (let i = 0; i < depth - 1; i += 1) if (counters[i] === 0) counters[i] = 1;
    for (let i = depth; i < 3; i += 1) counters[i] = 0;
    entries.push({
      block: block.id,
      number: counters.slice(0, depth).join('.'),
      level: depth,
      title: blockText(block),
    });
  }
  return entries;
}

/** The number that each numbered item shows: counted afresh after anything but a deeper item. */
export function itemNumbers(story: Story): ReadonlyMap<string, number> {
  const numbers = new Map<string, number>();
  let counters: number[] = [];
  for (const block of story.blocks) {
    if (block.kind !== 'number' && block.kind !== 'bullet') {
      counters = [];
      continue;
    }
    counters.length = Math.min(counters.length, block.level + 1);
    if (block.kind === 'bullet') {
      counters[block.level] = 0;
      continue;
    }
    const next = (counters[block.level] ?? 0) + 1;
    counters[block.level] = next;
    numbers.set(block.id, next);
  }
  return numbers;
}

type StoryFault = 'not-a-story' | 'too-large' | 'duplicate-id';

/** Reads a story from outside: the normal form of what was given, or why it is none. */
export function readStory(value: unknown): Story | StoryFault {
  if (!isObject(value) || value.format !== 1 || !Array.isArray(value.blocks)) return 'not-a-story';
  if (value.blocks.length > storyLimits.blocks) return 'too-large';
  const seen = new Set<string>();
  let characters = 0;
  let runCount = 0;
  const blocks: Block[] = [];
  for (const block of value.blocks as unknown[]) {
    if (!isObject(block) || typeof block.id !== 'string' || !/^[A-Za-z0-9_-]{1,40}$/.test(block.id))
      return 'not-a-story';
    if (seen.has(block.id)) return 'duplicate-id';
    seen.add(block.id);
    if (!blockKinds.includes(block.kind as BlockKind) || typeof block.level !== 'number' || !Array.isArray(block.runs))
      return 'not-a-story';
    const runs: TextRun[] = [];
    for (const run of block.runs as unknown[]) {
      if (!isObject(run) || typeof run.text !== 'string' || !isObject(run.marks)) return 'not-a-story';
      characters += run.text.length;
      runCount += 1;
      const { bold, italic, link } = run.marks;
      runs.push({
        text: printable(run.text),
        marks: {
          ...(bold === true ? { bold } : {}),
          ...(italic === true ? { italic } : {}),
          ...(typeof link === 'string' ? { link } : {}),
        },
      });
    }
    blocks.push({ id: block.id, kind: block.kind as BlockKind, level: block.level, runs });
  }
  if (characters > storyLimits.characters || runCount > storyLimits.runs) return 'too-large';
  return normal({ blocks });
}

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** Without control characters, which no format that leaves here can carry; tabs and line breaks stay. */
function printable(text: string): string {
  return text.replace(/\p{Cc}/gu, (character) => (character === '\t' || character === '\n' ? character : ''));
}
