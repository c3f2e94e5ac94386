import { SMTPServer } from 'smtp-server';
import { keepMail } from './postbox';

/** A small mail server on loopback that takes every message and keeps it in the Post room. */
export function postServer(folder: string, port: number): Promise<{ close: () => Promise<void> }> {
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    size: 25 * 1024 * 1024,
    logger: false,
    onData(stream, _session, done) {
      const pieces: Buffer[] = [];
      stream.on('data', (piece: Buffer) => pieces.push(piece));
      stream.on('end', () => keepMail(folder, Buffer.concat(pieces)).then(() => done(), done));
    },
  });
  // A sender that breaks off is no reason to end.
  server.on('error', () => {});
  return new Promise((resolve, reject) => {
    server.server.once('error', reject);
    server.listen(port, '127.0.0.1', () =>
      resolve({ close: () => new Promise((closed) => server.close(() => closed())) }),
    );
  });
}
