import { layOutDemo } from '@/demo/organization';
import { disconnect } from '@/server/db/connect';
import { settings } from '@/server/settings';
import { postDelivery } from '@/simulators/post/delivery';

const folder = settings().postFolder;
if (!folder) throw new Error('The demonstration needs AVENDA_POST.');
// Tests need a past to forecast from, and not all of it.
const past = process.env.AVENDA_PAST ? Number(process.env.AVENDA_PAST) : undefined;
const progress = (done: string) => process.stdout.write(`  Marrowfell Ropeway: ${done}\n`);
const began = await layOutDemo(Date.now(), postDelivery(folder), progress, past);
if (!began) process.stdout.write('  Marrowfell Ropeway is there already; its data are kept.\n');
await disconnect();
