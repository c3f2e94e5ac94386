import type { Metadata } from 'next';
import { RecordPage } from '@/ui/register/RecordPage';

export const metadata: Metadata = { title: 'Record · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ record: string }> }) {
  return <RecordPage record={(await params).record} />;
}
