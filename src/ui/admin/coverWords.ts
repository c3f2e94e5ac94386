import type { Cover } from '@/core/people/cover';
import { usePeople } from '../data/people';
import { useAsk } from '../data/use';
import { verbWords } from '../line/words';
import { adminWords } from './words';

const words = adminWords.away;

/** Says who covers for which kinds of work. */
export function useCoverWords(): (cover: Cover) => string {
  const { name } = usePeople();
  const { data: types } = useAsk('register.types');
  return ({ by, verbs, types: codes }) => {
    const work = verbs === 'all' ? words.everything : verbs.map((verb) => verbWords[verb].toLowerCase()).join(', ');
    const of =
      codes === 'all' ? '' : codes.map((code) => types?.find((type) => type.code === code)?.name ?? code).join(', ');
    return words.covers(name(by), work, of);
  };
}
