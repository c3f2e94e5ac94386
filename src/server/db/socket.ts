import net from 'node:net';

const connectionLost = () =>
  Object.assign(new Error('the connection to the database was lost'), { code: 'CONNECTION_CLOSED' });

/**
 * The driver's option `socket` (Postgres.js 3.4.9). Every end comes as 'error' and then 'close', which is the one order
 * in which the driver answers everything that was sent; a connection that is silent for `silentMs` is ended.
 */
export function guardedSocket(silentMs = 60_000) {
  return ({ host, port }: { readonly host: readonly string[]; readonly port: readonly number[] }): net.Socket => {
    const socket = net.connect(port[0] as number, host[0] as string);
    const emit = socket.emit.bind(socket) as (event: string, ...rest: unknown[]) => boolean;
    let up = false;
    let told = false;
    socket.once('connect', () => {
      up = true;
    });
    socket.setTimeout(silentMs, () => socket.destroy(connectionLost()));
    socket.emit = ((event: string, ...rest: unknown[]) => {
      if (event === 'error') told = true;
      if (event !== 'close' || !up) return emit(event, ...rest);
      // A handshake that is cut short without an error would be repeated without end.
      if (!told && socket.listenerCount('error') > 0) emit('error', connectionLost());
      // With `true` the driver never answers what was sent between 'error' and 'close'.
      return emit('close', false);
    }) as typeof socket.emit;
    return socket;
  };
}
