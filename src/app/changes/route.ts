import type { NextRequest } from 'next/server';
import { asMember, sessionName } from '@/server/auth/sessions';
import { follow } from '@/server/events/changes';
import { refusedResponse, secretOf } from '../edge';

const beatMs = 20_000;

/** The stream of change notifications for one browser (server-sent events): what changed, of what concerns this person. */
export async function GET(request: NextRequest): Promise<Response> {
  const secret = secretOf(request);
  const session = sessionName(secret);
  const member = await asMember(secret, async (tx, { person, roles }) => ({
    organization: tx.organization,
    person,
    roles,
  }));
  if (!member || !session) return refusedResponse('signed-out');
  const since = Number(request.nextUrl.searchParams.get('since')) || 0;
  const encoder = new TextEncoder();
  let stop = () => {};
  const body = new ReadableStream<Uint8Array>({
    async start(controller) {
      const send = (text: string) => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          stop();
        }
      };
      const end = () => {
        stop();
        try {
          controller.close();
        } catch {
          // The browser has gone already.
        }
      };
      const unfollow = await follow({ ...member, session, since, tell: (told) => send(`data: ${told}\n\n`), end });
      // A line now and then keeps the stream open through whatever stands between, and ends it with its session.
      const beat = setInterval(() => {
        send(': here\n\n');
        void asMember(secret, async () => true)
          .then((there) => there || end())
          .catch(() => {});
      }, beatMs);
      stop = () => {
        clearInterval(beat);
        unfollow();
      };
      request.signal.addEventListener('abort', () => stop());
      send('retry: 2000\n\n');
    },
    cancel: () => stop(),
  });
  return new Response(body, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-cache, no-transform',
      'x-accel-buffering': 'no',
    },
  });
}
