import { postServer } from '@/simulators/post/server';

const server = await postServer(process.env.AVENDA_POST ?? '.data/post', Number(process.env.AVENDA_POST_PORT));
process.stdout.write('READY\n');
process.on('SIGTERM', () => void server.close().then(() => process.exit(0)));
