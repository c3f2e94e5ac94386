import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { asMember, sessionCookie } from '@/server/auth/sessions';

/** Sends whoever is not signed in to the door. Data are asked for through operations all the same. */
export async function needMember(): Promise<void> {
  const cookie = (await cookies()).get(sessionCookie)?.value;
  if (await asMember(cookie, async (_, member) => member)) return;
  const path = (await headers()).get('x-path') ?? '/desk';
  redirect(`/sign-in?to=${encodeURIComponent(path)}`);
}
