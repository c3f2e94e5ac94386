import type { Metadata } from 'next';
import { CirculationList } from '@/ui/circulation/List';

export const metadata: Metadata = { title: 'Circulations · Avenda' };

export default function Page() {
  return <CirculationList />;
}
