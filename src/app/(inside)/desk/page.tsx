import type { Metadata } from 'next';
import { Desk } from '@/ui/desk/Desk';

export const metadata: Metadata = { title: 'Desk · Avenda' };

export default function Page() {
  return <Desk />;
}
