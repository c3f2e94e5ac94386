import { randomUUID } from 'node:crypto';
import { build } from './lib/build.mjs';
import { ensurePackages, ensurePrograms, main, Plain, pause, say } from './lib/machine.mjs';
import { runEntry } from './lib/serve.mjs';
import { withServer } from './lib/testServer.mjs';

/**
 * `npm run faults -- 60`: people send, extend, amend, remind and decide without a pause while one process after another is
 * killed with SIGKILL in the middle of it (the server, the worker, the mail simulator, the database), and days go by on the
 * clock. Afterwards what was acknowledged must be there once, and each message have gone out once.
 */
const kills = Number(process.argv[2] ?? 60);
const lanes = 5;
const victims = ['server', 'worker', 'database', 'server', 'worker', 'postroom', 'worker'];
const count = new Map();
const note = (what) => count.set(what, (count.get(what) ?? 0) + 1);

async function onePage() {
  const { PDFDocument } = await import('@cantoo/pdf-lib');
  const pdf = await PDFDocument.create();
  pdf.addPage([595, 842]);
  return pdf.save();
}

/** A person whose commands are put again under the same id until they are answered. */
async function personOf(url, person) {
  const headers = { origin: url, 'content-type': 'application/json' };
  const again = async (work) => {
    for (let tries = 0; tries < 400; tries += 1) {
      const answer = await work().catch(() => null);
      // What is not answered, or answered with a fault of the house, is put again.
      if (answer && answer.status < 500) return answer;
      await pause(150);
    }
    throw new Plain('Nothing was answered for a minute.');
  };
  const entered = await again(() =>
    fetch(`${url}/do/auth.enterAs`, { method: 'POST', headers, body: JSON.stringify({ person }) }),
  );
  const cookie = entered.headers.get('set-cookie')?.split(';')[0] ?? '';
  const told = async (name, input) => {
    const body = JSON.stringify({ ...input, commandId: randomUUID() });
    const answer = await again(() =>
      fetch(`${url}/do/${name}`, { method: 'POST', headers: { ...headers, cookie }, body }),
    );
    const said = await answer.json();
    if (!said.ok) throw new Plain(`${name} was refused: ${said.refusal.sentence}`);
    note(name);
    return said.value;
  };
  const asked = async (name, input) => {
    const request = { method: 'POST', headers: { ...headers, cookie }, body: JSON.stringify(input) };
    const said = await (await again(() => fetch(`${url}/ask/${name}`, request))).json();
    if (!said.ok) throw new Plain(`${name} was refused: ${said.refusal.sentence}`);
    return said.value;
  };
  const sent = async (bytes) => {
    const answer = await again(() =>
      fetch(`${url}/files?name=page.pdf`, {
        method: 'POST',
        headers: { origin: url, cookie, 'content-type': 'application/octet-stream' },
        body: bytes,
      }),
    );
    return (await answer.json()).value.file;
  };
  return { told, asked, sent };
}

/** One circulation from its sending to its first response, with an extension, an amendment and a reminder on the way. */
async function oneTrip(ines, petra, page, n) {
  const title = `Fault ${n}`;
  const file = await ines.sent(page);
  const { now } = await ines.asked('session.me', {});
  const { circulation } = await ines.told('desk.sendQuick', {
    file,
    name: 'page.pdf',
    title,
    verb: 'approve',
    people: ['petra', 'noor'].map((person) => ({ kind: 'person', person })),
    due: now + 30 * 3_600_000,
  });
  const seatOf = (view, person) => view.seats.find(({ holder }) => holder === person);
  let view = await ines.asked('circulation.view', { circulation });
  const noor = seatOf(view, 'noor');
  await ines.told('circulation.extend', {
    circulation,
    seat: noor.id,
    due: now + 60 * 3_600_000,
    closes: now + 90 * 3_600_000,
  });
  view = await ines.asked('circulation.view', { circulation });
  const basis = view.offers.find(({ act }) => act === 'amend').needs.basis;
  await ines.told('circulation.amend', {
    circulation,
    basis,
    route: view.route,
    note: `Please look at page ${n}.`,
    reason: null,
    whole: null,
    files: null,
  });
  await ines.told('circulation.remind', { circulation, seat: noor.id });
  view = await petra.asked('circulation.view', { circulation });
  const own = seatOf(view, 'petra');
  await petra.told('seat.decideMine', {
    circulation,
    seat: own.id,
    epoch: own.epoch,
    scope: own.scope,
    outcome: 'approved',
    note: null,
    values: {},
  });
  return { circulation, title };
}

await main(async () => {
  await ensurePrograms('postgres');
  await ensurePackages();
  await build();
  const page = await onePage();
  await withServer(
    { name: 'faults', seed: true, careless: false },
    async ({ url, env, children, restart, cluster }) => {
      const parts = { postroom: children[0], worker: children[1], server: children[2] };
      const [ines, petra] = await Promise.all(['ines', 'petra'].map((person) => personOf(url, person)));
      const trips = [];
      let going = true;
      let n = 0;
      const lane = async () => {
        while (going) trips.push(await oneTrip(ines, petra, page, ++n));
      };
      const all = Promise.all(Array.from({ length: lanes }, lane));
      // A fault is told below, when everything has been ended in order.
      all.catch(() => {
        going = false;
      });
      for (let i = 0; i < kills && going; i += 1) {
        await pause(300 + Math.random() * 1200);
        const victim = victims[i % victims.length];
        note(`killed: ${victim}`);
        if (victim === 'database') {
          // One backend that is killed ends all sessions, and the server recovers as from a crash.
          const pid = cluster.query(
            'postgres',
            "select pid from pg_stat_activity where datname = 'avenda_faults' order by random() limit 1",
          );
          if (pid) process.kill(Number(pid), 'SIGKILL');
        } else {
          parts[victim].kill('SIGKILL');
          parts[victim] = await restart(victim);
        }
        // Days go by, so that reminders and closing times come due while processes fall.
        if (i % 8 === 7) await ines.told('clock.forward', { hours: 20 });
      }
      going = false;
      await all;
      const query = (text) => cluster.query('avenda_faults', text);
      const own =
        "from circulation c join register r on r.organization = c.organization and r.record = c.record where r.title like 'Fault %'";
      for (let left = 240; ; left -= 1) {
        const waiting = query("select count(*) from job where state = 'waiting'");
        if (waiting === '0') break;
        if (left === 0) throw new Plain(`${waiting} jobs are still waiting.`);
        await pause(1000);
      }
      const twice = (what, found) => {
        if (found !== '') throw new Plain(`${what}: ${found}`);
      };
      if (Number(query(`select count(*) ${own}`)) !== trips.length)
        throw new Plain(`${query(`select count(*) ${own}`)} circulations of ${trips.length} that were acknowledged`);
      twice('sent twice', query(`select r.title ${own} group by 1 having count(*) > 1`));
      for (const [type, each] of [
        ['circulation.amended', 1],
        ['seat.extended', 1],
        ['seat.decided', 1],
      ])
        twice(
          `${type} not once`,
          query(`select c.number || ' ' || (select count(*) from event e where e.organization = c.organization
          and e.stream = 'circulation:' || c.id and e.type = '${type}') ${own} and (select count(*) from event e
          where e.organization = c.organization and e.stream = 'circulation:' || c.id and e.type = '${type}') <> ${each}`),
        );
      twice(
        'reminded twice at a point',
        query(
          "select stream, data::jsonb ->> 'seat', data::jsonb ->> 'point' from event where type = 'seat.reminded' and data::jsonb ->> 'point' is not null group by 1, 2, 3 having count(*) > 1",
        ),
      );
      twice(
        'closed twice',
        query(
          "select stream, data::jsonb ->> 'seat' from event where type = 'seat.missed' group by 1, 2 having count(*) > 1",
        ),
      );
      twice(
        'told twice',
        query(
          "select circulation, text from told where text like '%approved%' and person = 'ines' group by 1, 2 having count(*) > 1",
        ),
      );
      // The mails themselves, as whoever reads them sees them.
      const mails = [];
      for (let after = null; ; ) {
        const list = await ines.asked('post.list', { filter: 'Fault', after });
        mails.push(...list.rows);
        after = list.next;
        if (after === null) break;
      }
      const seen = new Map();
      for (const { subject, to } of mails) seen.set(`${to}: ${subject}`, (seen.get(`${to}: ${subject}`) ?? 0) + 1);
      for (const { title } of trips) {
        const asked = [...seen].find(
          ([key]) => key.startsWith('Noor Castellan: ') && key.endsWith(`Please approve ${title}`),
        );
        if (asked?.[1] !== 1) throw new Plain(`${title}: Noor was asked ${asked?.[1] ?? 0} times by mail`);
      }
      for (const [key, times] of seen)
        if (times > 1 && /Please approve|A new time/.test(key)) throw new Plain(`${key} went out ${times} times`);
      for (const { circulation } of trips.slice(0, 12))
        await runEntry('trail', env, [query(`select number from circulation where id = '${circulation}'`)]);
      const killed = [...count].filter(([what]) => what.startsWith('killed'));
      say(
        `\n${kills} kills (${killed.map(([what, times]) => `${what.slice(8)} ${times}`).join(', ')}) while ${trips.length} circulations went round: ${[
          ...count,
        ]
          .filter(([what]) => !what.startsWith('killed'))
          .map(([what, times]) => `${what} ${times}`)
          .join(', ')}; ${mails.length} mails. What was acknowledged is there once, each message went out once.`,
      );
    },
  );
});
