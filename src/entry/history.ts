import os from 'node:os';
import { tellPast } from '@/demo/organization';
import { disconnect } from '@/server/db/connect';

// Whoever looks at the demonstration meanwhile comes first.
os.setPriority(10);
let said = 0;
await tellPast(Date.now(), (told, toTell) => {
  const percent = toTell === 0 ? 100 : Math.floor((told / toTell) * 100);
  if (percent < said + 20 && percent < 100) return;
  if (percent > said) process.stdout.write(`  History: ${told} of ${toTell} circulations, ${percent} %\n`);
  said = percent;
});
await disconnect();
