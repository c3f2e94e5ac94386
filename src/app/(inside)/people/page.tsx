import type { Metadata } from 'next';
import { PeoplePage } from '@/ui/admin/PeoplePage';

export const metadata: Metadata = { title: 'People · Avenda' };

export default function Page() {
  return <PeoplePage />;
}
