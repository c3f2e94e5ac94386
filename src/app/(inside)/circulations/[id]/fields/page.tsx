import type { Metadata } from 'next';
import { FieldsPage } from '@/ui/signing/FieldsPage';

export const metadata: Metadata = { title: 'Fields · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ id: string }> }) {
  return <FieldsPage circulation={(await params).id} />;
}
