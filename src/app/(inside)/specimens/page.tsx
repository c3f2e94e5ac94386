import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { settings } from '@/server/settings';
import { Specimens } from '@/ui/parts/Specimens';

export const metadata: Metadata = { title: 'Specimens · Avenda' };

export default function Page() {
  if (settings().mode !== 'demo') notFound();
  return <Specimens />;
}
