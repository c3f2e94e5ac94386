import type { Metadata } from 'next';
import { Suspense } from 'react';
import { askOperations } from '@/server/operations/thread';
import { SignInPage } from '@/ui/admin/Door';

export const metadata: Metadata = { title: 'Sign in · Avenda' };

export const dynamic = 'force-dynamic';

type Look = Parameters<typeof SignInPage>[0]['look'];

export default async function Page() {
  const { body } = await askOperations({
    name: 'door.look',
    kind: 'query',
    link: null,
    input: '{}',
    address: '',
    agent: '',
    secret: undefined,
  });
  const answer = JSON.parse(body) as { ok: true; value: Look } | { ok: false; refusal: { sentence: string } };
  if (!answer.ok) throw new Error(answer.refusal.sentence);
  return (
    <Suspense>
      <SignInPage look={answer.value} />
    </Suspense>
  );
}
