import { QueryClient } from '@tanstack/react-query';
import { type Handed, keyOf, pagesKeyOf } from './firsts';
import { handPeople } from './people';

/** Where answers are kept while a page is open, with what came with it. */
export function clientWith({ answers, people }: Handed): QueryClient {
  const client = new QueryClient({
    defaultOptions: {
      queries: {
        staleTime: 30_000,
        retry: (count, error) => count < 2 && (error as { status?: number }).status === 0,
        refetchOnWindowFocus: true,
      },
    },
  });
  for (const { first, value } of answers)
    if (first.paged) client.setQueryData(pagesKeyOf(first.name, first.input), { pages: [value], pageParams: [null] });
    else client.setQueryData(keyOf(first.name, first.input), value);
  handPeople(client, people);
  return client;
}
