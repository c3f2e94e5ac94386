import type { Metadata } from 'next';
import { ChasePage } from '@/ui/desk/ChasePage';

export const metadata: Metadata = { title: 'Late with others · Avenda' };

export default function Page() {
  return <ChasePage />;
}
