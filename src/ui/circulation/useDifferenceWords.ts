import { differenceWords } from '@/core/circulation/telling/differenceWords';
import { useAssignments, useOrganization } from '../data/organization';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';

/** How an amendment's differences are said with the names of today. */
export function useDifferenceWords() {
  const { name } = usePeople();
  const { groups } = useOrganization();
  const { roleName } = useAssignments();
  const times = useTimes();
  const called = (id: string) => groups.find((group) => group.id === id)?.name ?? roleName(id);
  return (difference: Parameters<typeof differenceWords>[0]) =>
    differenceWords(difference, { name, moment: times.moment, called });
}
