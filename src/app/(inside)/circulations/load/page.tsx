import type { Metadata } from 'next';
import { LoadPage } from '@/ui/desk/LoadPage';

export const metadata: Metadata = { title: 'Load · Avenda' };

export default function Page() {
  return <LoadPage />;
}
