import { type InspectTask, inspectPdf } from '@/server/children/inspectPdf';
import { readTask } from './child';

process.stdout.write(JSON.stringify(await inspectPdf(await readTask<InspectTask>())));
process.exitCode = 0;
