import type { Standing } from '@/server/circulation/now';
import type { CommandName, InputOf, OutputOf } from '../data/client';
import { useKnownPeople } from '../data/people';
import { say } from '../data/said';
import { useKnown, useTell } from '../data/use';
import { toldWords } from './words';

/** The commands that answer how the circulation stands after them. */
type ActName = {
  [N in CommandName]: [OutputOf<N>] extends [Partial<Standing> | null] ? N : never;
}[CommandName];

/**
 * An act on a circulation: it is put, and one quiet line says what was done and who has it now. `answered` is called at
 * once when it was accepted, before anything on the page is asked for again; `after` when the page is up to date.
 */
export function useAct<N extends ActName>(
  name: N,
  told: string | ((input: InputOf<N>) => string),
  options: { answered?: () => void; after?: () => void } = {},
) {
  const person = useKnownPeople();
  const me = useKnown('session.me');
  return useTell(name, {
    answered: (value, input) => {
      const { phase, waitsFor } = (value ?? {}) as Partial<Standing>;
      const done = typeof told === 'string' ? told : told(input);
      const has =
        phase && waitsFor
          ? whoHasIt({ phase, waitsFor }, (id) => person(id)?.name ?? toldWords.somebody, me()?.me.id ?? '')
          : '';
      say([done, has].filter(Boolean).join(' '));
      options.answered?.();
    },
    after: () => options.after?.(),
  });
}

/** Who has a circulation now, as a sentence. */
function whoHasIt({ phase, waitsFor }: Standing, name: (id: string) => string, me: string): string {
  if (phase === 'completed' || phase === 'withdrawn') return '';
  if (waitsFor.length === 0) return toldWords.working;
  if (waitsFor.length === 1 && waitsFor[0] === me) return toldWords.yours;
  const names = waitsFor.map((person) => (person === me ? toldWords.you : name(person)));
  return toldWords.has(names);
}
