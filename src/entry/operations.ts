import { parentPort } from 'node:worker_threads';
import { disconnect } from '@/server/db/connect';
import type { Operation } from '@/server/operations/operation';
import { registry } from '@/server/operations/registry';
import { reply } from '@/server/operations/reply';
import type { FromThread, ToThread } from '@/server/operations/thread';
import { simulatorOperations } from '@/simulators/operations';

// Every operation that can be reached over HTTP: the server's own and, in the demonstration, the simulators'.
const operations: ReadonlyMap<string, Operation> = new Map([
  ...registry,
  ...simulatorOperations.map((operation) => [operation.name, operation] as const),
]);

const port = parentPort;
if (!port) throw new Error('This program runs as a thread of the server.');
const tell = (message: FromThread): void => port.postMessage(message);

port.on('message', async (message: ToThread) => {
  if (message === null) {
    await disconnect();
    port.close();
  } else tell({ id: message.id, reply: await reply(operations, message.asked) });
});
tell('ready');
