import { layOutDemo } from '@/demo/organization';
import { disconnect } from '@/server/db/connect';
import { settings } from '@/server/settings';
import { postDelivery } from '@/simulators/post/delivery';

const folder = settings().postFolder;
if (!folder) throw new Error('The demonstration needs AVENDA_POST.');
process.stdout.write('Laying out the demonstration organization ...\n');
// Tests need a past to forecast from, and not all of it.
const past = process.env.AVENDA_PAST ? Number(process.env.AVENDA_PAST) : undefined;
const began = await layOutDemo(Date.now(), postDelivery(folder), past);
if (!began) process.stdout.write('It is there already; its data are kept.\n');
await disconnect();
