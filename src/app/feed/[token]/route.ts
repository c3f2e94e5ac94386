import { organizationOfHandle } from '@/server/auth/links';
import { inOrganization } from '@/server/db/connect';
import { feedOf } from '@/server/desk/feed';

/** Somebody's dues as a calendar reads them: whoever knows the address, and nothing but dues. */
export async function GET(_request: Request, { params }: { params: Promise<{ token: string }> }): Promise<Response> {
  const [handle = '', code = ''] = (await params).token.split('.');
  const organization = organizationOfHandle(handle);
  const text = organization ? await inOrganization(organization, (tx) => feedOf(tx, handle, code)) : null;
  if (text === null) return new Response('There is no such calendar.', { status: 404 });
  return new Response(text, {
    headers: {
      'content-type': 'text/calendar; charset=utf-8',
      'cache-control': 'no-store',
      'referrer-policy': 'no-referrer',
      'x-robots-tag': 'noindex',
    },
  });
}
