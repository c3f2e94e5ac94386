import { actorOf, organizationIn } from '@/server/auth/sessions';
import { inOrganization } from '@/server/db/connect';
import { hearHints } from '@/server/events/hub';
import { callerOf, refusedResponse } from '../edge';

/** The stream of hints for one browser (server-sent events). It says that something changed, never what. */
export async function GET(request: Request): Promise<Response> {
  const { sessionCookie } = await callerOf(request, null, () => {});
  const organization = organizationIn(sessionCookie);
  const actor = organization ? await inOrganization(organization, (tx) => actorOf(tx, sessionCookie)) : null;
  if (!organization || actor?.kind !== 'member') return refusedResponse('signed-out');
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
      const deaf = await hearHints(organization, (hint) => send(`data: ${hint}\n\n`));
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
