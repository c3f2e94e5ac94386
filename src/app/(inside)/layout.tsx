import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import type { ReactNode } from 'react';
import { sessionCookie } from '@/server/auth/sessions';
import { firstsOf } from '@/ui/data/firsts';
import { Shell } from '@/ui/parts/Shell';
import { firstAnswers } from '../firsts';

/**
 * The frame of every page inside, with the answers to the page's first questions. It is made when a page is loaded; whoever
 * goes on from there asks ahead. Who is not signed in is sent to the door.
 */
export default async function Inside({ children }: { readonly children: ReactNode }) {
  const asked = await headers();
  const address = asked.get('x-path') ?? '/desk';
  // Whoever comes from another page of ours has asked already.
  const firsts = asked.get('sec-fetch-dest') === 'empty' ? [] : firstsOf(address);
  const handed = await firstAnswers(firsts, (await cookies()).get(sessionCookie)?.value);
  if (!handed) redirect(`/sign-in?to=${encodeURIComponent(address)}`);
  return <Shell handed={handed}>{children}</Shell>;
}
