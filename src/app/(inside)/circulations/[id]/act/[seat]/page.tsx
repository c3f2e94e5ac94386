import type { Metadata } from 'next';
import { ActPage } from '@/ui/signing/ActPage';

export const metadata: Metadata = { title: 'Read and decide · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ id: string; seat: string }> }) {
  const { id, seat } = await params;
  return <ActPage circulation={id} seat={seat} />;
}
