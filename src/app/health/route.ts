import { databaseAnswers } from '@/server/db/connect';

export const dynamic = 'force-dynamic';

/** Whether this process can do its work, for whoever watches it: 200, or 503 with what is missing. */
export async function GET(): Promise<Response> {
  const database = await databaseAnswers();
  return Response.json(
    { ok: database, database },
    { status: database ? 200 : 503, headers: { 'cache-control': 'no-store' } },
  );
}
