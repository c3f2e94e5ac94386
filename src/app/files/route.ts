import type { NextRequest } from 'next/server';
import { asMember } from '@/server/auth/sessions';
import { receiveFile } from '@/server/files/receive';
import { log } from '@/server/log';
import { refusedAnswer } from '@/server/operations/handle';
import { fromOurPages } from '@/server/operations/origin';
import { replyOf } from '@/server/operations/reply';
import { Refused } from '@/server/refused';
import { settings } from '@/server/settings';
import { refusedResponse, secretOf, toResponse } from '../edge';

/** Takes in a file as the body of the request, streamed; its name stands in the address. */
export async function POST(request: NextRequest): Promise<Response> {
  const header = (name: string) => request.headers.get(name);
  const from = { origin: header('origin'), site: header('sec-fetch-site'), host: header('host') };
  if (!fromOurPages(from, settings().url)) return refusedResponse('other-origin');
  const organization = await asMember(secretOf(request), async (tx) => tx.organization);
  if (!organization) return refusedResponse('signed-out');
  const name = request.nextUrl.searchParams.get('name') ?? '';
  if (!name || name.length > 200 || !request.body) return refusedResponse('bad-input');
  try {
    // Said before a byte is read, where the browser says how much is coming.
    if (Number(request.headers.get('content-length') ?? 0) > settings().uploadLimit) {
      const limit = Math.floor(settings().uploadLimit / 1024 / 1024);
      return toResponse(
        replyOf(
          refusedAnswer('too-large', `This file is larger than the ${limit} MB that are allowed here.`, { limit }),
        ),
      );
    }
    const file = await receiveFile(organization, name, request.body);
    return toResponse(
      replyOf({
        ok: true,
        status: 200,
        value: { file: file.hash, bytes: file.bytes, mediaType: file.mediaType },
      }),
    );
  } catch (error) {
    if (error instanceof Refused) return toResponse(replyOf(refusedAnswer(error.code, error.message, error.facts)));
    log.error({ error: error instanceof Error ? error.stack : String(error) }, 'an upload failed');
    return toResponse(
      replyOf({
        ok: false,
        status: 500,
        refusal: {
          code: 'fault',
          sentence: 'The file could not be taken in. Nothing of it was kept; please try again.',
          facts: {},
        },
      }),
    );
  }
}
