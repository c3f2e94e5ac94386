import { cookies } from 'next/headers';
import postgres from 'postgres';
import { Rows } from './Rows';

export const dynamic = 'force-dynamic';

let pool;

/** The yardstick of a page: as many rows with as many cells, read by one statement, and no library to draw them with. */
export default async function Page() {
  pool ??= postgres(process.env.DATABASE_URL, { max: 16 });
  await cookies();
  const rows = await pool`select id, title from bare_row order by id limit 20`;
  return <Rows rows={rows.map(({ id, title }) => ({ id, title }))} />;
}
