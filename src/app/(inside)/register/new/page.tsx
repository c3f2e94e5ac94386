import type { Metadata } from 'next';
import { NewRecord } from '@/ui/register/NewRecord';

export const metadata: Metadata = { title: 'New document · Avenda' };

export default function Page() {
  return <NewRecord />;
}
