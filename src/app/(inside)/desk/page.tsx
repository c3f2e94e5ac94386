import type { Metadata } from 'next';
import { Suspense } from 'react';
import { Desk } from '@/ui/desk/Desk';

export const metadata: Metadata = { title: 'Desk · Avenda' };

export default function Page() {
  return (
    <Suspense>
      <Desk />
    </Suspense>
  );
}
