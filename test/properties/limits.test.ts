import { expect, it } from 'vitest';
import { everyOperation } from '@/entry/operations';
import { limitOf } from '@/server/operations/http';
import { largestInput } from '../largest';

it.each([...everyOperation.values()].map((operation) => [operation.name, operation] as const))(
  '%s takes the largest input that its schema allows',
  (_, operation) => {
    const bytes = Buffer.byteLength(JSON.stringify(largestInput(operation.input.schema)));
    expect(bytes).toBeLessThanOrEqual(limitOf(operation));
  },
);
