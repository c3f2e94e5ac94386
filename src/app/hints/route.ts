import type { NextRequest } from 'next/server';
import { asMember } from '@/server/auth/sessions';
import { subscribe } from '@/server/events/hub';
import { refusedResponse, secretOf } from '../edge';

/** The stream of hints for one browser (server-sent events). It says that something changed, never what. */
export async function GET(request: NextRequest): Promise<Response> {
  const organization = await asMember(secretOf(request), async (tx) => tx.organization);
  if (!organization) return refusedResponse('signed-out');
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
      const deaf = await subscribe(organization, (hint) => send(`data: ${hint}\n\n`));
      // A line now and then keeps the stream open through whatever stands between.
      const beat = setInterval(() => send(': here\n\n'), 20_000);
      stop = () => {
        clearInterval(beat);
        deaf();
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
