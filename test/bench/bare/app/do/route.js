import postgres from 'postgres';

export const dynamic = 'force-dynamic';

let pool;

/** The yardstick of a durable command: reads the same body and cookie, and makes two inserts in one transaction. */
export async function POST(request) {
  pool ??= postgres(process.env.DATABASE_URL, { max: 16 });
  const session = request.cookies.get('avenda_session')?.value;
  const body = JSON.parse(await request.text());
  if (!session) return Response.json({ ok: false }, { status: 401 });
  await pool.begin(async (tx) => {
    await tx`insert into bare_event (id, data) values (${body.commandId}, ${JSON.stringify(body)})`;
    await tx`insert into bare_row (id, title) values (${body.commandId}, ${body.title})`;
  });
  return Response.json({ ok: true, value: null, changed: [] });
}
