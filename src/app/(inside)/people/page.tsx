import type { Metadata } from 'next';
import { Suspense } from 'react';
import { PeoplePage } from '@/ui/admin/PeoplePage';

export const metadata: Metadata = { title: 'People · Avenda' };

export default function Page() {
  return (
    <Suspense>
      <PeoplePage />
    </Suspense>
  );
}
