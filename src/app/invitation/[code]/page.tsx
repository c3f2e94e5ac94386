import type { Metadata } from 'next';
import { InvitationPage } from '@/ui/admin/InvitationPage';

export const metadata: Metadata = { title: 'Welcome · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ code: string }> }) {
  return <InvitationPage code={(await params).code} />;
}
