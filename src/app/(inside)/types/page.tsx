import type { Metadata } from 'next';
import { TypesPage } from '@/ui/admin/TypesPage';

export const metadata: Metadata = { title: 'Document types · Avenda' };

export default function Page() {
  return <TypesPage />;
}
