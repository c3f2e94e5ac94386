import type { Metadata } from 'next';
import { Planner } from '@/ui/circulation/Planner';

export const metadata: Metadata = { title: 'Plan · Avenda' };

export default async function Page({ params }: { readonly params: Promise<{ id: string }> }) {
  return <Planner circulation={(await params).id} />;
}
