import type { Metadata } from 'next';
import { NewRecord } from '@/ui/register/RecordPage';

export const metadata: Metadata = { title: 'New document · Avenda' };

export default function Page() {
  return <NewRecord />;
}
