import { createServer } from 'node:http';
import next from 'next';
import { organizations, setUpCode } from '@/server/admin/setup';
import { disconnect } from '@/server/db/connect';
import { clientAddress } from '@/server/operations/address';
import { answerOperation } from '@/server/operations/http';
import { startOperations, stopOperations } from '@/server/operations/thread';
import { settings } from '@/server/settings';

const { port, host, proxies, mode } = settings();
const app = next({ dev: false, hostname: host, port });
await Promise.all([app.prepare(), startOperations()]);
const handle = app.getRequestHandler();

const server = createServer((request, response) => {
  const address = clientAddress(request.socket.remoteAddress ?? '', request.headers['x-forwarded-for'], proxies);
  if (answerOperation(request, response, address)) return;
  // The framework says on its own which client it believes; we do not, so it sees none of what a client says of itself.
  for (const name of Object.keys(request.headers))
    if (name.startsWith('x-forwarded-') || name === 'forwarded' || name === 'x-real-ip') delete request.headers[name];
  void handle(request, response);
});
server.keepAliveTimeout = 65_000;
server.requestTimeout = 15 * 60_000;
server.listen(port, host, async () => {
  if (mode === 'real' && (await organizations()).length === 0)
    process.stdout.write(`This installation is empty. The code for its first administrator: ${setUpCode()}\n`);
  process.stdout.write('READY\n');
});

process.on('SIGTERM', () => {
  // Event streams never end by themselves.
  server.closeAllConnections();
  server.close(() => void Promise.all([stopOperations(), disconnect()]).finally(() => process.exit(0)));
});
