import { createServer } from 'node:http';
import next from 'next';
import { organizations, setUpCode } from '@/server/admin/setup';
import { disconnect } from '@/server/db/connect';
import { clearAbandonedFolders } from '@/server/files/temporary';
import { log } from '@/server/log';
import { clientAddress } from '@/server/operations/address';
import { addressHeader } from '@/server/operations/http';
import { settings } from '@/server/settings';

const { port, host, proxies, mode } = settings();
await clearAbandonedFolders();
const app = next({ dev: false, hostname: host, port });
await app.prepare();
const handle = app.getRequestHandler();

const methods = new Set(['GET', 'HEAD', 'POST']);

const server = createServer({ maxHeaderSize: 16 * 1024 }, (request, response) => {
  const address = clientAddress(request.socket.remoteAddress ?? '', request.headers['x-forwarded-for'], proxies);
  // What the framework answers by itself (faults, what is not there) is allowed nothing; pages say their own policy.
  // A web worker takes the policy of its own script, and loads its other pieces from here.
  const scripts = request.url?.startsWith('/_next/static/') ? " script-src 'self';" : '';
  response.setHeader(
    'content-security-policy',
    `default-src 'none';${scripts} frame-ancestors 'none'; base-uri 'none'`,
  );
  response.setHeader('x-content-type-options', 'nosniff');
  if (!methods.has(request.method ?? '')) return void response.writeHead(405, { allow: 'GET, HEAD, POST' }).end();
  if (!isWellFormed(request.url ?? '')) return void response.writeHead(400).end();
  // The framework says on its own which client it believes; we do not, so it sees none of what a client says of itself.
  for (const name of Object.keys(request.headers))
    if (name.startsWith('x-forwarded-') || name === 'forwarded' || name === 'x-real-ip') delete request.headers[name];
  request.headers[addressHeader] = address;
  void handle(request, response);
});
server.headersTimeout = 15_000;
server.requestTimeout = 15 * 60_000;
server.keepAliveTimeout = 65_000;
server.maxRequestsPerSocket = 10_000;

/** Whether a request's target is a path that can be read. */
function isWellFormed(target: string): boolean {
  try {
    // The framework looks for files by what is decoded here; a NUL in it would leave the request without an answer.
    if (decodeURIComponent(target).includes('\0')) return false;
    return target.startsWith('/') && !target.startsWith('//') && URL.canParse(target, 'http://localhost');
  } catch {
    return false;
  }
}

server.listen(port, host, async () => {
  process.stdout.write('READY\n');
  if (mode === 'real')
    await organizations()
      .then((all) => {
        if (all.length === 0)
          process.stdout.write(`This installation is empty. The code for its first administrator: ${setUpCode()}\n`);
      })
      .catch((error) => log.error({ error: String(error) }, 'the database does not answer'));
});

process.on('SIGTERM', () => {
  // Event streams never end by themselves.
  server.closeAllConnections();
  server.close(() => void disconnect().finally(() => process.exit(0)));
});
