import { actorOf, organizationIn } from '@/server/auth/sessions';
import { inOrganization } from '@/server/db/connect';
import { receiveFile } from '@/server/files/receive';
import { log } from '@/server/log';
import { refusedAnswer } from '@/server/operations/handle';
import { Refused } from '@/server/refused';
import { settings } from '@/server/settings';
import { callerOf, fromOurPages, refusedResponse, toResponse } from '../edge';

/** Takes in a file as the body of the request, streamed; its name stands in the address. */
export async function POST(request: Request): Promise<Response> {
  if (!fromOurPages(request)) return refusedResponse('other-origin');
  const { sessionCookie } = await callerOf(request, null, () => {});
  const organization = organizationIn(sessionCookie);
  const actor = organization ? await inOrganization(organization, (tx) => actorOf(tx, sessionCookie)) : null;
  if (!organization || actor?.kind !== 'member') return refusedResponse('signed-out');
  const name = new URL(request.url).searchParams.get('name') ?? '';
  if (!name || name.length > 200 || !request.body) return refusedResponse('bad-input');
  try {
    // Said before a byte is read, where the browser says how much is coming.
    if (Number(request.headers.get('content-length') ?? 0) > settings().uploadLimit) {
      const limit = Math.floor(settings().uploadLimit / 1024 / 1024);
      return toResponse(
        refusedAnswer('too-large', `This file is larger than the ${limit} MB that are allowed here.`, { limit }),
      );
    }
    const file = await receiveFile(organization, name, request.body);
    return toResponse({
      ok: true,
      status: 200,
      value: { file: file.hash, bytes: file.bytes, mediaType: file.mediaType },
    });
  } catch (error) {
    if (error instanceof Refused) return toResponse(refusedAnswer(error.code, error.message, error.facts));
    log.error({ error: error instanceof Error ? error.stack : String(error) }, 'an upload failed');
    return toResponse({
      ok: false,
      status: 500,
      refusal: {
        code: 'fault',
        sentence: 'The file could not be taken in. Nothing of it was kept; please try again.',
        facts: {},
      },
    });
  }
}
