import type { Metadata } from 'next';
import { Suspense } from 'react';
import { refusal } from '@/core/refusals';
import { handle } from '@/server/operations/handle';
import { registry } from '@/server/operations/registry';
import { SignInPage } from '@/ui/admin/SignIn';

export const metadata: Metadata = { title: 'Sign in · Avenda' };

export const dynamic = 'force-dynamic';

type Look = Parameters<typeof SignInPage>[0]['look'];

export default async function Page() {
  const look = registry.get('auth.look');
  const by = { kind: 'session', secret: undefined } as const;
  const nobody = { address: '', agent: '', by, page: undefined, setCookie: () => {} };
  const answer = look && (await handle(look, {}, nobody));
  if (!answer?.ok) throw new Error(answer?.refusal.sentence ?? refusal('not-found').sentence);
  return (
    <Suspense>
      <SignInPage look={answer.value as Look} />
    </Suspense>
  );
}
