import pino from 'pino';

/** The log of this process: faults and what jobs met, never words, addresses or links. */
export const log = pino({ level: process.env.AVENDA_LOG ?? 'info', base: null });
