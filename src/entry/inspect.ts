import { inspectPdf } from '@/server/children/inspectPdf';
import { readTask } from './child';

const { path, growing } = await readTask<{ path: string; growing?: boolean }>();
process.stdout.write(JSON.stringify(await inspectPdf(path, growing)));
process.exit(0);
