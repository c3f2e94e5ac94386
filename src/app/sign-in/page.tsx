import type { Metadata } from 'next';
import { Suspense } from 'react';
import { doorOperations } from '@/server/auth/operations';
import type { Caller } from '@/server/operations/operation';
import { SignInPage } from '@/ui/admin/Door';

export const metadata: Metadata = { title: 'Sign in · Avenda' };

export const dynamic = 'force-dynamic';

type Look = Parameters<typeof SignInPage>[0]['look'];

export default async function Page() {
  const look = doorOperations.find((operation) => operation.name === 'door.look');
  if (look?.where !== 'door') throw new Error('the door has no look');
  const nobody: Caller = { address: '', agent: '', sessionCookie: undefined, handle: null, setCookie: () => {} };
  const seen = (await look.run({}, nobody)) as Look;
  return (
    <Suspense>
      <SignInPage look={JSON.parse(JSON.stringify(seen)) as Look} />
    </Suspense>
  );
}
