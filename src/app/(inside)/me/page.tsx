import type { Metadata } from 'next';
import { OwnPage } from '@/ui/admin/OwnPage';

export const metadata: Metadata = { title: 'Your page · Avenda' };

export default function Page() {
  return <OwnPage />;
}
