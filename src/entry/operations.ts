import type { Operation } from '@/server/operations/operation';
import { registry } from '@/server/operations/registry';
import { simulatorOperations } from '@/simulators/operations';

/** Every operation that can be reached over HTTP: the server's own and, in the demonstration, the simulators'. */
export const everyOperation: ReadonlyMap<string, Operation> = new Map([
  ...registry,
  ...simulatorOperations.map((operation) => [operation.name, operation as unknown as Operation] as const),
]);
