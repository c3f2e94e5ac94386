import Joi from 'joi';
import { hint } from '@/server/events/streams';
import type { Claim } from '@/server/operations/operation';
import { operation } from '@/server/operations/operation';
import { settings } from '@/server/settings';
import { letters } from './post/postbox';

/** Only where both the start mode and the database say so; the database's own guard stands behind the clock. */
const inDemo = (action: 'post.read' | 'demo.use') => (): Claim | null =>
  settings().mode === 'demo' ? { action, subject: { kind: 'demo', on: true } } : null;

export const simulatorOperations = [
  operation<Record<string, never>, unknown>({
    name: 'post.list',
    kind: 'query',
    where: 'member',
    input: Joi.object({}),
    access: inDemo('post.read'),
    run: async () => {
      const folder = settings().postFolder;
      return folder ? letters(folder) : [];
    },
  }),

  operation<{ hours: number }, { now: number }>({
    name: 'clock.forward',
    kind: 'command',
    where: 'member',
    input: Joi.object({
      hours: Joi.number()
        .integer()
        .min(1)
        .max(24 * 92)
        .required(),
    }),
    access: inDemo('demo.use'),
    run: async (tx, input) => {
      const ms = input.hours * 3_600_000;
      await tx.sql`
        insert into clock (forward_ms) values (${ms}) on conflict (singleton) do update set forward_ms = clock.forward_ms + ${ms}`;
      hint(tx, 'clock');
      return { now: tx.now + ms };
    },
  }),
];
