import type { Role } from '@/core/access/may';
import { usualAllows } from '@/core/route/route';
import { instantAtWall, wallClock } from '@/core/time/zone';
import { addPerson } from '@/server/admin/people';
import { foundOrganization, organizations } from '@/server/admin/setup';
import { inOrganization } from '@/server/db/connect';
import { learnFromEnded } from '@/server/forecast/learn';
import { forecastDue } from '@/server/forecast/make';
import type { Deliver } from '@/server/mail/send';
import { setRandomSource } from '@/server/random';
import { putAway } from '@/server/telling/told';
import { arrange } from './arrange';
import { texts } from './documents';
import { beginHistory, tellOn } from './history';
import { branches, copies, seeded, series, stage, teller, workingDay } from './teller';

const id = '019aa000-0000-7000-8000-00000000a7e1';

const members: readonly (readonly [string, string, string, Role[]])[] = [
  ['ines', 'Ines Halloran', 'document controller', ['controller']],
  ['rufus', 'Rufus Adeyemi', 'head of rope and drive', []],
  ['petra', 'Petra Novak', 'safety manager', []],
  ['oskar', 'Oskar Thiele', 'operations manager', []],
  ['yuki', 'Yuki Arden', 'rope mechanic', []],
  ['noor', 'Noor Castellan', 'electrical engineer', []],
  ['dalia', 'Dalia Mercer', 'contracts', []],
  ['benedikt', 'Benedikt Rowe', 'managing director', []],
  ['fenna', 'Fenna de Wit', 'guest services', []],
  ['caspian', 'Caspian Boyle', 'lift supervisor', []],
  ['thea', 'Thea Lindqvist', 'administrator', ['administrator']],
];

const outside: readonly (readonly [string, string, string, string, string])[] = [
  ['lotte', 'Lotte Kessel', 'sales', 'Tessel Wire Works', 'Europe/Vienna'],
  ['jarek', 'Jarek Holm', 'inspector', 'Harrow & Pell Inspection', 'Europe/London'],
  ['sanna', 'Sanna Virtue', 'inspector', 'Harrow & Pell Inspection', 'Europe/London'],
];

/** How many circulations of the last year and a half have ended. */
const usualPast = 400;

/**
 * Lays out Marrowfell Ropeway with its recent weeks, once, and begins its past, which `tellPast` tells while it is served.
 * `progress` is told what is done. Gives false when it is there already.
 */
export async function layOutDemo(
  today: number,
  deliver: Deliver,
  progress: (done: string) => void,
  past = usualPast,
): Promise<boolean> {
  if ((await organizations()).length > 0) return false;
  setRandomSource(seeded('marrowfell'));
  const begin = workingDay(today, 390, '08:00');
  await foundOrganization({ id, name: 'Marrowfell Ropeway', zone: 'Europe/Oslo', prefix: 'MR' }, begin);
  // A house that has worked for years has its first steps behind it.
  await inOrganization(id, (tx) => tx.sql`update profile set types_confirmed = true where organization = ${id}`, {
    at: begin,
  });
  for (const [i, [person, name, work, roles]] of members.entries())
    await inOrganization(
      id,
      (tx) =>
        addPerson(tx, {
          id: person,
          kind: 'member',
          name,
          email: `${person}@marrowfell.example`,
          work,
          company: '',
          zone: 'Europe/Oslo',
          roles,
          state: 'active',
        }),
      { at: begin + i },
    );
  for (const [person, name, work, company, zone] of outside)
    await inOrganization(
      id,
      (tx) =>
        addPerson(tx, {
          id: person,
          kind: 'outside',
          name,
          email: `${person}@${company.toLowerCase().replace(/[^a-z]+/g, '-')}.example`,
          work,
          company,
          zone,
          roles: [],
          state: 'active',
        }),
      { at: begin + 60_000 },
    );
  await inOrganization(id, (tx) => arrange(tx, today), { at: begin + 120_000 });
  await beginHistory(id, today, past);
  progress(`${members.length + outside.length} people`);
  await tellTheWeeks(today, deliver, (told) => progress(`circulation ${told} of its last weeks`));
  // What is fitted from the little that has been told stands until the past is whole.
  await forecast({});
  setRandomSource(null);
  return true;
}

async function forecast(at: { readonly at?: number }): Promise<void> {
  while ((await learnFromEnded(id, at)) > 0);
  while ((await forecastDue(id, at)) > 0);
}

/**
 * Tells what is left of the past, and with the whole of it forecasts yesterday anew, so that today can say what has changed
 * since. Going on after it was broken off is the same as not having been.
 */
export async function tellPast(today: number, progress: (told: number, toTell: number) => void): Promise<void> {
  for (let whole = false; !whole; ) {
    const { told, toTell } = await tellOn(id);
    progress(told, toTell);
    whole = told >= toTell;
  }
  // Everything that has ended teaches before anything is fitted from it.
  while ((await learnFromEnded(id)) > 0);
  await inOrganization(id, async (tx) => {
    for (const table of ['forecast', 'forecast_model', 'forecast_experience'])
      await tx.sql`delete from ${tx.sql(table)} where organization = ${id}`;
    await tx.sql`update circulation set forecast_at = null where organization = ${id} and ended is null`;
  });
  await forecast({ at: workingDay(today, 1, '15:30') });
  await forecast({});
}

async function tellTheWeeks(today: number, deliver: Deliver, progress: (told: number) => void): Promise<void> {
  const t = teller(id, deliver, progress);
  const day = (days: number, time: string) => workingDay(today, days, time);

  /** A record with revisions that were approved and released one after the other. */
  const released = async (
    facts: { number: string; title: string; documentType: string; owner: string },
    lines: readonly string[],
    revisions: readonly { readonly ago: number; readonly approver: string; readonly reason: string }[],
  ): Promise<string> => {
    const record = await t.record(day((revisions[0]?.ago ?? 60) + 4, '09:00'), facts);
    for (const { ago, approver, reason } of revisions) {
      const trip = await t.start(day(ago + 3, '09:10'), record, {
        ...facts,
        author: facts.owner,
        reason,
        route: series(stage('approve', [approver], { due: day(ago, '16:00') })),
      });
      await t.submit(trip, day(ago + 2, '11:30'), lines);
      await t.send(trip, day(ago + 2, '13:05'));
      await t.see(trip, day(ago + 1, '08:40'), approver);
      await t.decide(trip, day(ago + 1, '09:20'), approver, 'approved');
      await t.release(trip, day(ago, '10:15'));
    }
    return record;
  };

  // MR-PRO-014: revision C released; D in review with three people, one of them late by habit.
  const rope = { number: 'MR-PRO-014', title: 'Rope inspection procedure', documentType: 'PRO', owner: 'rufus' };
  const ropeRecord = await released(rope, texts.ropeInspection, [
    { ago: 78, approver: 'petra', reason: 'First issue' },
    { ago: 55, approver: 'petra', reason: 'Magnetic head added' },
    { ago: 31, approver: 'oskar', reason: 'Wind limit of the inspection car' },
  ]);
  const ropeTrip = await t.start(day(9, '08:30'), ropeRecord, {
    ...rope,
    author: 'rufus',
    reason: 'Findings of last winter: shorter interval, photographs of broken wires',
    route: series(
      stage('review', ['yuki', 'petra', 'noor'], { due: day(1, '16:00') }),
      stage('approve', ['oskar'], { due: day(-4, '16:00') }),
      stage('read', ['yuki', 'caspian', 'fenna'], { rule: { kind: 'atLeast', k: 2 } }),
    ),
    note: 'Please look at section 3 above all. The interval is what the inspection body will ask about.',
  });
  await t.submit(ropeTrip, day(7, '14:10'), texts.ropeInspection, {
    note: 'Section 3 is new',
    attachments: ['Wire photographs, winter.zip', 'Rope log, last quarter.csv'],
  });
  await t.send(ropeTrip, day(6, '08:15'));
  await t.see(ropeTrip, day(6, '09:02'), 'yuki');
  const comment = await t.comment(
    ropeTrip,
    day(5, '10:20'),
    'yuki',
    'Two broken wires were found at five months last winter. Six months is too long.',
    { page: 0, x: 310, y: 330 },
  );
  await t.comment(
    ropeTrip,
    day(5, '13:40'),
    'rufus',
    'Agreed, I will bring the numbers into the next version.',
    null,
    comment,
  );
  await t.comment(ropeTrip, day(4, '09:15'), 'yuki', 'Which photograph goes into the log, the first or the clearest?', {
    page: 0,
    x: 120,
    y: 520,
  });
  await t.decide(ropeTrip, day(4, '11:00'), 'yuki', 'done');
  await t.see(ropeTrip, day(3, '15:20'), 'petra');
  await t.remind(ropeTrip, day(1, '09:00'), 'noor');

  // MR-PLN-003: two branches side by side, one of them returned.
  const plan = { number: 'MR-PLN-003', title: 'Evacuation plan, Midfell span', documentType: 'PLN', owner: 'petra' };
  const planRecord = await released(plan, texts.evacuation, [{ ago: 60, approver: 'oskar', reason: 'First issue' }]);
  const planTrip = await t.start(day(8, '09:00'), planRecord, {
    ...plan,
    author: 'petra',
    reason: 'Second team from the far end of the span',
    route: series(
      branches(
        '',
        { kind: 'all' },
        ['technical', stage('review', ['rufus', 'noor'], { due: day(-1, '16:00') })],
        [
          'rescue',
          branches(
            '',
            { kind: 'all' },
            ['on the span', stage('review', ['caspian', 'fenna'], { due: day(-1, '16:00') })],
            ['on the ground', stage('review', ['group:rescue'], { due: day(-1, '16:00') })],
          ),
        ],
      ),
      stage('approve', ['oskar', 'benedikt'], { order: 'oneByOne', due: day(-6, '16:00') }),
    ),
    note: 'Technical and rescue review run side by side.',
  });
  await t.submit(planTrip, day(6, '10:00'), texts.evacuation, { attachments: ['Map of the service road.pdf'] });
  await t.send(planTrip, day(5, '08:10'));
  await t.see(planTrip, day(5, '08:55'), 'rufus');
  await t.decide(planTrip, day(4, '14:30'), 'rufus', 'done');
  await t.see(planTrip, day(3, '10:05'), 'caspian');
  await t.decide(
    planTrip,
    day(2, '11:45'),
    'caspian',
    'returned',
    'Tower six cannot be reached by two people in snow. The plan must say three, or another way in.',
  );

  // MR-WI-052: waiting for approval; one seat late, with a second holder.
  const grip = { number: 'MR-WI-052', title: 'Grip dismantling and crack test', documentType: 'WI', owner: 'rufus' };
  const gripRecord = await released(grip, texts.gripTest, [{ ago: 48, approver: 'petra', reason: 'First issue' }]);
  const gripTrip = await t.start(day(10, '13:00'), gripRecord, {
    ...grip,
    author: 'rufus',
    reason: 'New torque for the jaw bolts',
    route: series(stage('review', ['yuki']), stage('approve', ['oskar', 'petra'], { due: day(1, '16:00') })),
  });
  await t.submit(gripTrip, day(9, '10:00'), texts.gripTest);
  await t.send(gripTrip, day(9, '10:30'));
  await t.see(gripTrip, day(8, '08:20'), 'yuki');
  await t.decide(gripTrip, day(8, '09:45'), 'yuki', 'done');
  await t.see(gripTrip, day(6, '13:10'), 'petra');
  await t.decide(gripTrip, day(6, '13:50'), 'petra', 'approvedWithComments', 'Say who seals the bolts.');
  await t.remind(gripTrip, day(2, '09:00'), 'oskar');
  await t.addSecondHolder(gripTrip, day(1, '09:05'), 'oskar', 'caspian');

  // MR-AGR-021: a bundle of a text and two PDFs; two approval branches, then signatures, one of them outside.
  const supply = {
    number: 'MR-AGR-021',
    title: 'Haul rope supply agreement, Tessel Wire Works',
    documentType: 'AGR',
    owner: 'dalia',
  };
  const supplyRecord = await t.record(day(14, '09:00'), supply);
  // Petra names who keeps the signed agreement.
  const supplyReview = stage('review', ['petra', 'rufus', 'yuki'], { due: day(7, '16:00'), onReturn: 'gather' });
  const petras = supplyReview.seats[0]?.id ?? '';
  const supplyTrip = await t.start(day(14, '09:20'), supplyRecord, {
    ...supply,
    author: 'dalia',
    reason: 'New haul rope for the Midfell span, 184,000',
    route: series(
      supplyReview,
      branches(
        '',
        { kind: 'all' },
        ['technical', stage('approve', ['noor'], { due: day(2, '16:00') })],
        ['commercial', stage('approve', ['oskar', 'caspian'], { due: day(-2, '16:00') })],
      ),
      stage('approve', ['benedikt'], {
        due: day(-5, '16:00'),
        condition: {
          kind: 'fact',
          fact: 'amount',
          is: 'over',
          value: { kind: 'amount', thousandths: 100_000_000, currency: 'EUR' },
        },
      }),
      copies('fenna'),
      stage('sign', ['lotte', 'benedikt'], {
        order: 'oneByOne',
        due: day(-12, '16:00'),
        earliest: { kind: 'date', at: secondMonday(today) },
        allows: { ...usualAllows, changes: true },
      }),
      stage('read', [`named:${petras}`]),
    ),
    facts: {
      amount: { kind: 'amount', thousandths: 184_000_000, currency: 'EUR' },
      party: { kind: 'party', text: 'Tessel Wire Works' },
    },
    note: 'The price is settled. Please check liability and the splicing on site.',
  });
  await t.submit(supplyTrip, day(12, '15:00'), texts.ropeSupply, {
    asText: true,
    documents: [
      { title: 'Price list', lines: texts.ropePrices },
      { title: 'Technical annex', lines: texts.ropeAnnex },
    ],
    attachments: ['Offer, Tessel Wire Works.pdf'],
  });
  await t.send(supplyTrip, day(11, '08:00'));
  for (const [person, ago] of [
    ['petra', 10],
    ['rufus', 9],
    ['yuki', 8],
  ] as const) {
    await t.see(supplyTrip, day(ago, '09:00'), person);
    if (person === 'petra') await t.name(supplyTrip, day(ago, '09:40'), 'petra', 'dalia');
    await t.decide(supplyTrip, day(ago, '10:30'), person, 'done');
  }
  await t.see(supplyTrip, day(5, '09:30'), 'noor');
  await t.decide(
    supplyTrip,
    day(3, '15:40'),
    'noor',
    'approvedWithComments',
    'The earthing of the drum must be stated.',
  );
  await t.see(supplyTrip, day(1, '10:42'), 'caspian');

  // MR-CER-009: signed by operations and safety, declined by the inspector: it waits for Ines.
  const ready = {
    number: 'MR-CER-009',
    title: 'Certificate of readiness, winter season',
    documentType: 'CER',
    owner: 'petra',
  };
  const readyRecord = await t.record(day(8, '10:00'), ready);
  const readyTrip = await t.start(day(8, '10:10'), readyRecord, {
    ...ready,
    author: 'petra',
    reason: 'Winter season',
    route: series(stage('sign', ['oskar', 'petra', 'jarek'], { due: day(-1, '16:00') })),
    note: 'The season opens on Saturday. Thank you for signing this week.',
  });
  await t.submit(readyTrip, day(7, '11:00'), texts.readiness);
  await t.putFields(readyTrip, day(7, '11:20'), [
    // On the lines that are printed for them.
    { person: 'oskar', page: 0, x: 130, y: 438 },
    { person: 'petra', page: 0, x: 106, y: 494 },
    { person: 'jarek', page: 0, x: 155, y: 550 },
    { person: 'jarek', page: 0, x: 349, y: 569, kind: 'signedOn' },
  ]);
  await t.send(readyTrip, day(7, '11:30'));
  await t.see(readyTrip, day(6, '08:30'), 'petra');
  await t.decide(readyTrip, day(6, '08:40'), 'petra', 'signed');
  await t.see(readyTrip, day(5, '12:00'), 'oskar');
  await t.decide(readyTrip, day(5, '12:05'), 'oskar', 'signed');
  await t.see(readyTrip, day(2, '09:15'), 'jarek');
  await t.decide(
    readyTrip,
    day(1, '10:30'),
    'jarek',
    'declined',
    'The Summit chairlift is no longer my district. My colleague Sanna Virtue covers it.',
  );

  // MR-POL-002: approved, now being read.
  const lone = { number: 'MR-POL-002', title: 'Lone working policy', documentType: 'POL', owner: 'petra' };
  const loneRecord = await released(lone, texts.loneWorking, [
    { ago: 40, approver: 'benedikt', reason: 'First issue' },
  ]);
  const loneTrip = await t.start(day(7, '09:00'), loneRecord, {
    ...lone,
    author: 'petra',
    reason: 'Calls every hour instead of every two',
    route: series(
      stage('approve', ['benedikt']),
      stage('read', ['rufus', 'yuki', 'noor', 'fenna', 'caspian', 'oskar', 'dalia', 'thea'], { due: day(-3, '16:00') }),
    ),
  });
  await t.submit(loneTrip, day(6, '09:30'), texts.loneWorking);
  await t.send(loneTrip, day(6, '09:40'));
  await t.see(loneTrip, day(5, '16:00'), 'benedikt');
  await t.decide(loneTrip, day(5, '16:10'), 'benedikt', 'approved');
  for (const [person, ago] of [
    ['yuki', 4],
    ['fenna', 4],
    ['caspian', 3],
    ['dalia', 2],
    ['thea', 1],
  ] as const) {
    await t.see(loneTrip, day(ago, '11:00'), person);
    await t.decide(loneTrip, day(ago, '11:10'), person, 'confirmed');
  }

  // MR-LOG-001: a change begun, nothing submitted yet.
  const log = { number: 'MR-LOG-001', title: 'Rope and wind log', documentType: 'LOG', owner: 'fenna' };
  const logRecord = await released(log, texts.windLog, [{ ago: 35, approver: 'oskar', reason: 'Third quarter' }]);
  await t.start(day(2, '08:20'), logRecord, {
    ...log,
    author: 'fenna',
    reason: 'Fourth quarter, and the storm of last week',
  });

  // MR-PRO-019: released at A, nothing in progress.
  await released(
    { number: 'MR-PRO-019', title: 'Brake test of the drive', documentType: 'PRO', owner: 'rufus' },
    texts.brakeTest,
    [{ ago: 44, approver: 'petra', reason: 'First issue' }],
  );

  // MR-BRF-007: returned, the next version is in: the round waits to be confirmed.
  const brief = {
    number: 'MR-BRF-007',
    title: 'Seasonal staff safety briefing',
    documentType: 'BRF',
    owner: 'caspian',
  };
  const briefRecord = await t.record(day(9, '09:00'), brief);
  const briefTrip = await t.start(day(9, '09:05'), briefRecord, {
    ...brief,
    author: 'caspian',
    reason: 'Winter staff',
    route: series(stage('review', ['petra', 'fenna', 'yuki']), stage('approve', ['oskar'])),
  });
  await t.submit(briefTrip, day(8, '14:00'), texts.briefing);
  await t.send(briefTrip, day(8, '14:20'));
  await t.see(briefTrip, day(7, '08:10'), 'fenna');
  await t.decide(briefTrip, day(7, '08:30'), 'fenna', 'done');
  await t.see(briefTrip, day(5, '15:00'), 'petra');
  await t.decide(
    briefTrip,
    day(4, '09:10'),
    'petra',
    'returned',
    'The rule for the loading area is missing its reason.',
  );
  await t.submit(
    briefTrip,
    day(2, '13:30'),
    [...texts.briefing, 'Carriers cannot stop within the length of the loading area.'],
    { note: 'Reason added' },
  );

  // MR-FRM-030: all responses are in; it waits for its release.
  const night = { number: 'MR-FRM-030', title: 'Night work permit', documentType: 'FRM', owner: 'petra' };
  const nightRecord = await released(night, texts.nightWork, [{ ago: 52, approver: 'oskar', reason: 'First issue' }]);
  const nightTrip = await t.start(day(6, '10:00'), nightRecord, {
    ...night,
    author: 'petra',
    reason: 'Second radio',
    route: series(stage('approve', ['oskar', 'rufus'])),
  });
  await t.submit(nightTrip, day(5, '09:00'), texts.nightWork);
  await t.send(nightTrip, day(5, '09:15'));
  for (const [person, ago] of [
    ['rufus', 4],
    ['oskar', 2],
  ] as const) {
    await t.see(nightTrip, day(ago, '13:00'), person);
    await t.decide(nightTrip, day(ago, '13:15'), person, 'approved');
  }

  // MR-AGR-018: withdrawn with a reason; a fresh circulation has been begun from it.
  const mast = { number: 'MR-AGR-018', title: 'Radio mast access, Summit', documentType: 'AGR', owner: 'dalia' };
  const mastRecord = await t.record(day(16, '09:00'), mast);
  const mastRoute = () =>
    series(
      stage('review', ['rufus']),
      stage('approve', ['oskar', 'benedikt'], { rule: { kind: 'any' } }),
      stage('sign', ['benedikt']),
    );
  const mastTrip = await t.start(day(16, '09:10'), mastRecord, {
    ...mast,
    author: 'dalia',
    reason: 'Operator asks for winter access',
    route: mastRoute(),
  });
  await t.submit(mastTrip, day(15, '11:00'), texts.mast);
  await t.send(mastTrip, day(15, '11:10'));
  await t.see(mastTrip, day(14, '08:00'), 'rufus');
  await t.withdraw(
    mastTrip,
    day(13, '10:00'),
    'The operator has sent other terms; this draft no longer says what was agreed.',
  );
  const mastAgain = await t.start(day(3, '09:30'), mastRecord, {
    ...mast,
    author: 'dalia',
    reason: 'Operator asks for winter access, new terms',
    route: mastRoute(),
  });
  await t.submit(
    mastAgain,
    day(2, '16:00'),
    [...texts.mast, '# Winter', 'In winter access is by chairlift only, with the first run of the day.'],
    { note: 'New terms' },
  );

  // MR-PRO-023: sent back by one, while the others still look at it; one asks something first; a stage came under way.
  const sled = { number: 'MR-PRO-023', title: 'Rescue sled inspection', documentType: 'PRO', owner: 'fenna' };
  const sledRecord = await t.record(day(6, '09:30'), sled);
  const sledTrip = await t.start(day(6, '09:40'), sledRecord, {
    ...sled,
    author: 'fenna',
    reason: 'Two new sleds for the Summit station',
    route: series(
      stage('review', ['rufus', 'noor', 'petra'], { due: day(-3, '16:00'), onReturn: 'gather' }),
      stage('approve', ['oskar'], { due: day(-8, '16:00') }),
    ),
  });
  await t.submit(sledTrip, day(5, '10:00'), [
    '# Scope',
    'This procedure covers the two rescue sleds that are kept at the Summit station.',
    '# Before each winter',
    'Runners, handles and straps are looked at by two people. A strap with a cut is replaced, never sewn.',
    '# After each use',
    'The sled is dried and hung up. Whoever used it writes down the day and what was damaged.',
  ]);
  await t.send(sledTrip, day(4, '10:15'));
  await t.see(sledTrip, day(3, '08:30'), 'rufus');
  await t.decide(
    sledTrip,
    day(2, '09:20'),
    'rufus',
    'returned',
    'Say how far a handle may bend before it is replaced.',
  );
  await t.see(sledTrip, day(2, '14:00'), 'petra');
  await t.ask(sledTrip, day(1, '14:20'), 'petra', 'Does this also hold for the sled in the valley station?');
  await t.amend(sledTrip, day(1, '15:00'), stage('read', ['caspian', 'yuki']), 'Whoever fetches a sled must know it.');

  // What lies more than a day back has been looked at.
  for (const [person] of members)
    await inOrganization(id, async (tx) => putAway(tx, person, day(2, '00:00')), { at: day(1, '16:00') });

  // Oskar is away in the second week, and Caspian covers for him.
  await t.away(day(1, '15:30'), 'oskar', monday(today, 1), monday(today, 2), 'caspian');
}

/** Half past seven in the morning of the Monday so many weeks after this one. */
function monday(today: number, weeks: number): number {
  const days = 7 * weeks - ((new Date(today).getUTCDay() + 6) % 7);
  return (
    instantAtWall('Europe/Oslo', `${wallClock('Europe/Oslo', today + days * 86_400_000).slice(0, 10)}T07:30`) ?? today
  );
}

/** Eight in the morning of the second Monday after a day. */
function secondMonday(today: number): number {
  const weekday = (new Date(today).getUTCDay() + 6) % 7;
  const days = 14 - weekday;
  return (
    instantAtWall('Europe/Oslo', `${wallClock('Europe/Oslo', today + days * 86_400_000).slice(0, 10)}T08:00`) ?? today
  );
}
