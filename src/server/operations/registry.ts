import { adminOperations } from '../admin/operations';
import { doorOperations } from '../auth/operations';
import { circulationOperations } from '../circulation/operations';
import { deskOperations } from '../desk/operations';
import { draftingOperations } from '../drafting/operations';
import { registerOperations } from '../register/operations';
import { signingOperations } from '../signing/operations';
import type { Operation } from './operation';

/** Every operation there is, by name. The rights test walks this list. */
export const registry: ReadonlyMap<string, Operation> = new Map(
  [
    ...doorOperations,
    ...adminOperations,
    ...deskOperations,
    ...registerOperations,
    ...draftingOperations,
    ...circulationOperations,
    ...signingOperations,
  ].map((operation) => [operation.name, operation]),
);
