import type { Metadata } from 'next';
import { Control } from '@/ui/circulation/Control';

export const metadata: Metadata = { title: 'Circulation · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ id: string }> }) {
  return <Control circulation={(await params).id} />;
}
