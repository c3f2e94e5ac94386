import { notify } from '@/server/db/connect';
import { cursorOf, keysIn, patternsOf } from '@/server/lists';
import { shape, whole } from '@/server/operations/input';
import { type Claim, type ContractOf, memberOperation } from '@/server/operations/operation';
import { cursor, filter } from '@/server/operations/pieces';
import { settings } from '@/server/settings';
import { mails } from './post/postbox';

/** Only where both the start mode and the database say so; the database's own guard stands behind the clock. */
const inDemo = (action: 'post.read' | 'demo.use') => (): Claim | null =>
  settings().mode === 'demo' ? { action, subject: { kind: 'demo', on: true } } : null;

const pageSize = 50;

export const simulatorOperations = [
  memberOperation({
    name: 'post.list',
    kind: 'query',
    input: shape({ filter, after: cursor }),
    claim: inDemo('post.read'),
    run: async (_tx, input) => {
      const folder = settings().postFolder;
      const words = patternsOf(input.filter).map((pattern) => pattern.slice(1, -1));
      const all = (folder ? await mails(folder) : []).filter((mail) =>
        words.every((word) => `${mail.to} ${mail.from} ${mail.subject}`.toLowerCase().includes(word)),
      );
      const after = keysIn(input.after, ['number', 'string']);
      const begin = after
        ? all.findIndex((mail) => mail.date < after[0] || (mail.date === after[0] && mail.id > after[1]))
        : 0;
      const rows = begin < 0 ? [] : all.slice(begin, begin + pageSize);
      const last = rows[rows.length - 1];
      const more = last && begin + pageSize < all.length;
      return { rows, next: more ? cursorOf(last.date, last.id) : null, count: all.length };
    },
  }),

  memberOperation({
    name: 'clock.forward',
    kind: 'command',
    input: shape({ hours: whole(1, 24 * 92) }),
    claim: inDemo('demo.use'),
    changes: ['clock'],
    run: async (tx, input) => {
      const ms = input.hours * 3_600_000;
      await tx.sql`
        insert into clock (forward_ms) values (${ms}) on conflict (singleton) do update set forward_ms = clock.forward_ms + ${ms}`;
      notify(tx, 'clock');
      return { now: tx.now + ms };
    },
  }),
] as const;

export type SimulatorContract = ContractOf<typeof simulatorOperations>;
