import { receiptDays } from '@/core/access/sight';
import { linkCookie, openLink, organizationOfHandle } from '@/server/auth/links';
import { inOrganization } from '@/server/db/connect';
import { cookieText } from '@/server/operations/http';
import { settings } from '@/server/settings';

/**
 * A link as it was sent. Opening it marks nothing: mail scanners open links too. A right code moves into a cookie of
 * the link's own path, and the browser goes on to an address that is clean to copy, print and log.
 */
export async function GET(_request: Request, { params }: { params: Promise<{ token: string }> }): Promise<Response> {
  const [handle = '', code = ''] = (await params).token.split('.');
  const organization = organizationOfHandle(handle);
  const link = organization ? await inOrganization(organization, (tx) => openLink(tx, handle, code)) : null;
  const headers = new Headers({
    location: `${settings().url}/sign/${link ? handle : 'unknown'}`,
    'referrer-policy': 'no-referrer',
    'cache-control': 'no-store',
  });
  if (link)
    headers.append(
      'set-cookie',
      cookieText({
        name: linkCookie(handle),
        value: code,
        path: `/sign/${handle}`,
        maxAge: (receiptDays + 90) * 86_400,
      }),
    );
  return new Response(null, { status: 303, headers });
}
