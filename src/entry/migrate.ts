import path from 'node:path';
import { migrate } from '@/server/db/migrate';
import { settings } from '@/server/settings';

const { databaseUrl, secret, mode } = settings();
const applied = await migrate({
  ownerUrl: databaseUrl,
  secret,
  mode,
  folder: path.join(process.cwd(), 'db/migrations'),
});
if (applied.length > 0) process.stdout.write(`Database: ${applied.join(', ')}\n`);
