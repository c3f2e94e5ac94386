import { type EvidenceTask, writeEvidence } from '@/server/children/evidenceSheet';
import { renderText, type TextTask } from '@/server/children/renderText';
import {
  type EdgeTask,
  type FillTask,
  type FreezeTask,
  runEdge,
  runFill,
  runFreeze,
} from '@/server/children/signedFile';
import { readTask } from './child';

const task = await readTask<TextTask | EvidenceTask | FreezeTask | FillTask | EdgeTask>();
if (task.kind === 'text') await renderText(task);
else if (task.kind === 'evidence') await writeEvidence(task);
else if (task.kind === 'freeze') await runFreeze(task);
else if (task.kind === 'edge') await runEdge(task);
else await runFill(task);
process.stdout.write('{}');
