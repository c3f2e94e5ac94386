import type { NextRequest } from 'next/server';
import { asMember } from '@/server/auth/sessions';
import { receiveFile, refuseTooLarge } from '@/server/files/receive';
import { log } from '@/server/log';
import { refusedAnswer, refusedWith } from '@/server/operations/handle';
import { responseOf } from '@/server/operations/http';
import { fromOurPages } from '@/server/operations/origin';
import { Refused } from '@/server/refused';
import { settings } from '@/server/settings';
import { refusedResponse, secretOf } from '../edge';

/** How many uploads one process takes in at the same time. */
const most = 8;
let underWay = 0;

/** Takes in a file as the body of the request, streamed; its name stands in the address. */
export async function POST(request: NextRequest): Promise<Response> {
  const header = (name: string) => request.headers.get(name);
  if (!fromOurPages({ origin: header('origin'), site: header('sec-fetch-site') }, settings().url))
    return refusedResponse('other-origin');
  const who = await asMember(secretOf(request), async (tx, { person }) => ({ organization: tx.organization, person }));
  if (!who) return refusedResponse('signed-out');
  const name = (request.nextUrl.searchParams.get('name') ?? '').normalize('NFC');
  if (!name || name.length > 200 || !request.body) return refusedResponse('bad-input');
  if (underWay >= most) return refusedResponse('busy');
  underWay += 1;
  try {
    // Said before a byte is read, where the browser says how much is coming.
    if (Number(header('content-length') ?? 0) > settings().uploadLimit) refuseTooLarge();
    const file = await receiveFile(who.organization, who.person, name, request.body);
    const { pages = [], notices = [], noFields = null } = file.facts;
    const value = {
      file: file.hash,
      bytes: file.bytes,
      mediaType: file.mediaType,
      pages: pages.length,
      notices,
      noFields,
    };
    return responseOf({ ok: true, status: 200, value, changed: [] });
  } catch (error) {
    if (error instanceof Refused) return responseOf(refusedAnswer(error.refusal));
    log.error({ error: error instanceof Error ? error.stack : String(error) }, 'an upload failed');
    return responseOf(refusedWith('upload-fault'));
  } finally {
    underWay -= 1;
  }
}
