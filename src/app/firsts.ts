import { may } from '@/core/access/may';
import { everyOperation } from '@/entry/operations';
import { allNamed } from '@/server/admin/people';
import type { Tx } from '@/server/db/connect';
import { answerTogether } from '@/server/operations/handle';
import type { Caller, Member, Operation } from '@/server/operations/operation';
import { type First, type Handed, me } from '@/ui/data/firsts';

type Answers = Handed['answers'];

function operationOf({ name }: First): Operation {
  const operation = everyOperation.get(name);
  if (!operation) throw new Error(`there is no operation ${name}`);
  return operation;
}

/** What could be an id of somebody. */
const idLike = /^(group:(unit:)?)?[A-Za-z0-9_-]{1,64}$/;

/** Every text in an answer under which somebody could stand. */
function idsIn(value: unknown, into = new Set<string>()): Set<string> {
  if (typeof value === 'string') {
    if (idLike.test(value)) into.add(value);
  } else if (typeof value === 'object' && value !== null) for (const part of Object.values(value)) idsIn(part, into);
  return into;
}

async function named(tx: Tx, member: Member, answers: Answers): Promise<Omit<Handed, 'at'>> {
  const ids = idsIn(answers.map(({ first, value }) => [first.input, value]));
  const mayRead = may(member, 'people.read', { kind: 'organization' });
  return { answers, people: mayRead ? await allNamed(tx, [...ids]) : [] };
}

/** The answers to the first questions of a page, and whoever they name; null for who is not signed in. */
export async function firstAnswers(firsts: readonly First[], secret: string | undefined): Promise<Handed | null> {
  const by = { kind: 'session', secret } as const;
  const caller: Caller = { address: '', agent: '', by, page: undefined, setCookie: () => {} };
  const at = Date.now();
  const ask = async (asked: readonly First[], before: Answers): Promise<Omit<Handed, 'at'> | null> => {
    const questions = asked.map((first) => ({ operation: operationOf(first), input: first.input }));
    let following: readonly First[] = [];
    const handed = await answerTogether(questions, caller, async (tx, member, values) => {
      const answered = asked.flatMap((first, i) => (values[i] === undefined ? [] : [{ first, value: values[i] }]));
      following = answered.flatMap(({ first, value }) => first.next(value));
      const bare = answered.map(({ first: { name, input, paged }, value }) => ({
        first: { name, input, paged },
        value,
      }));
      const answers = [...before, ...bare];
      return following.length > 0 ? { answers, people: [] } : named(tx, member, answers);
    });
    return handed && following.length > 0 ? ask(following, handed.answers) : handed;
  };
  const handed = await ask([me, ...firsts], []);
  return handed && { ...handed, at };
}
