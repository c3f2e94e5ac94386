import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { actorOf, organizationIn, sessionCookie } from '@/server/auth/sessions';
import { inOrganization } from '@/server/db/connect';

/** Sends whoever is not signed in to the door. Data are asked for through operations all the same. */
export async function needMember(): Promise<void> {
  const cookie = (await cookies()).get(sessionCookie)?.value;
  const organization = organizationIn(cookie);
  const actor = organization ? await inOrganization(organization, (tx) => actorOf(tx, cookie)) : null;
  if (actor?.kind === 'member') return;
  const path = (await headers()).get('x-path') ?? '/desk';
  redirect(`/sign-in?to=${encodeURIComponent(path)}`);
}
