import type { Metadata } from 'next';
import { DraftPage } from '@/ui/drafting/DraftPage';

export const metadata: Metadata = { title: 'Draft · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ change: string }> }) {
  return <DraftPage change={(await params).change} />;
}
