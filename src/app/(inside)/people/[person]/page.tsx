import type { Metadata } from 'next';
import { PersonPage } from '@/ui/admin/PersonPage';

export const metadata: Metadata = { title: 'Person · Avenda' };

export default async function Page({ params }: { params: Promise<{ person: string }> }) {
  return <PersonPage id={(await params).person} />;
}
