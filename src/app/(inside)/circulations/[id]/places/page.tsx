import type { Metadata } from 'next';
import { PlacesPage } from '@/ui/signing/PlacesPage';

export const metadata: Metadata = { title: 'Places · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ id: string }> }) {
  return <PlacesPage circulation={(await params).id} />;
}
