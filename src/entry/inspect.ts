import { inspectPdf } from '@/server/children/inspectPdf';
import { readTask } from './child';

const { path } = await readTask<{ path: string }>();
process.stdout.write(JSON.stringify(await inspectPdf(path)));
process.exit(0);
