import type { Story } from '@/core/text/story';
import { unsetInStory } from '../letters/documentText';
import { letterName } from '../letters/spelled';

/** A letter of a text that cannot be set on a page yet: where it stands and what it is called (Unicode). */
export interface UnsetLetter {
  readonly block: string;
  readonly letter: string;
  readonly name: string;
}

export function unsetLetters(story: Story | undefined): readonly UnsetLetter[] {
  return (story ? unsetInStory(story) : []).map((one) => ({ ...one, name: letterName(one.letter) }));
}
