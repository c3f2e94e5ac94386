import { disconnect, workAs } from '@/server/db/connect';
import { clearAbandonedFolders } from '@/server/files/temporary';
import { workUntil } from '@/server/jobs/work';
import { smtpDelivery } from '@/server/mail/send';
import { settings } from '@/server/settings';

workAs('avenda_worker');
const stop = new AbortController();
process.on('SIGTERM', () => stop.abort());
await clearAbandonedFolders();
const { smtpUrl } = settings();
const smtp = smtpUrl ? smtpDelivery(smtpUrl) : null;
process.stdout.write('READY\n');
await workUntil(stop.signal, smtp?.deliver ?? null);
smtp?.close();
await disconnect();
process.exit(0);
