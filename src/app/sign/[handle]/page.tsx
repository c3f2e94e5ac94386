import type { Metadata } from 'next';
import { LinkPage } from '@/ui/signing/LinkPage';

export const metadata: Metadata = { title: 'Sign · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ handle: string }> }) {
  return <LinkPage handle={(await params).handle} />;
}
