import type { Metadata } from 'next';
import { ActPage } from '@/ui/signing/ActPage';

export const metadata: Metadata = { title: 'Read · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ id: string }> }) {
  return <ActPage circulation={(await params).id} seat={null} />;
}
