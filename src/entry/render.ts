import { type EvidenceTask, writeEvidence } from '@/server/children/evidenceSheet';
import { renderText, type TextTask } from '@/server/children/renderText';
import { type FillTask, type FreezeTask, runFill, runFreeze } from '@/server/children/signedFile';
import { readTask } from './child';

const task = await readTask<TextTask | EvidenceTask | FreezeTask | FillTask>();
if (task.kind === 'text') await renderText(task);
else if (task.kind === 'evidence') await writeEvidence(task);
else if (task.kind === 'freeze') await runFreeze(task);
else await runFill(task);
process.stdout.write('{}');
