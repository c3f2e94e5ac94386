import { deriveFinal, type FinalTask } from '@/server/children/deriveFinal';
import { renderText, type TextTask } from '@/server/children/renderText';
import { readTask } from './child';

const task = await readTask<TextTask | FinalTask>();
if (task.kind === 'text') await renderText(task);
else await deriveFinal(task);
process.stdout.write('{}');
