import { peopleOperations } from '../admin/operations';
import { authOperations } from '../auth/operations';
import { circulationOperations } from '../circulation/operations';
import { publishedOperations } from '../circulation/published';
import { deskOperations } from '../desk/operations';
import { draftingOperations } from '../drafting/operations';
import { forecastOperations } from '../forecast/operations';
import { organizationOperations } from '../organization/operations';
import { registerOperations } from '../register/operations';
import { signingOperations } from '../signing/operations';
import { tellingOperations } from '../telling/operations';
import type { ContractOf, Operation } from './operation';

const all = [
  ...authOperations,
  ...peopleOperations,
  ...deskOperations,
  ...registerOperations,
  ...draftingOperations,
  ...circulationOperations,
  ...publishedOperations,
  ...signingOperations,
  ...organizationOperations,
  ...forecastOperations,
  ...tellingOperations,
] as const;

/** Every operation there is, by name. The rights test walks this list. */
export const registry: ReadonlyMap<string, Operation> = new Map(
  all.map((operation) => [operation.name, operation as unknown as Operation]),
);

/** What callers are checked against: name, input and output of each operation. */
export type Contract = ContractOf<typeof all>;
