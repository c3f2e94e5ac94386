import { mkdtemp, readFile, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import type { Block, Story, TextRun } from '@/core/text/story';
import { renderText } from '@/server/children/renderText';

/** A demonstration text from short lines: "# heading", "## heading", "- item", "1. item", else a paragraph; *bold*. */
export function textOf(lines: readonly string[]): Story {
  const blocks = lines.map((line, i): Block => {
    const id = `d${i + 1}`;
    const heading = /^(#{1,3}) (.*)$/.exec(line);
    if (heading) return { id, kind: 'heading', level: heading[1]?.length ?? 1, runs: runsOf(heading[2] ?? '') };
    if (line.startsWith('- ')) return { id, kind: 'bullet', level: 0, runs: runsOf(line.slice(2)) };
    if (/^\d\. /.test(line)) return { id, kind: 'number', level: 0, runs: runsOf(line.slice(3)) };
    return { id, kind: 'paragraph', level: 0, runs: runsOf(line) };
  });
  return { format: 1, blocks };
}

function runsOf(text: string): TextRun[] {
  return text
    .split('*')
    .flatMap((part, i) => (part ? [{ text: part, marks: i % 2 === 1 ? { bold: true as const } : {} }] : []));
}

/** The pages of a demonstration text; the same text gives the same bytes. */
export async function pagesOf(
  facts: { number: string; title: string; revision: string; version: number; at: number },
  lines: readonly string[],
): Promise<Buffer> {
  const folder = await mkdtemp(path.join(os.tmpdir(), 'avenda-'));
  try {
    const into = path.join(folder, 'pages.pdf');
    await renderText({ kind: 'text', story: textOf(lines), ...facts, into });
    return await readFile(into);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Where somebody signs or dates on paper. */
const signatureLine = '_'.repeat(34);
const dateLine = '_'.repeat(14);

export const texts = {
  ropeInspection: [
    '# Purpose',
    'This procedure says how the haul ropes and track ropes of Marrowfell Ropeway are inspected, by whom, how often, and what is done with what is found.',
    '# Responsibilities',
    'The head of rope and drive owns this procedure. The rope mechanic on duty carries out the inspection and signs the rope log on the same day.',
    '# Inspection of the haul rope',
    'The haul rope is inspected over its entire length. The inspector walks the line from the drive station to the return station and marks each finding with the distance from the last splice.',
    'The interval between two inspections is six months, shortened after any stop caused by wind above 25 metres a second.',
    '1. Stop the drive and lock the main switch.',
    '2. Clean the rope over the length of the splice.',
    '3. Run the rope at 0.3 metres a second through the magnetic head.',
    '4. Mark each broken wire and photograph it.',
    'Findings are entered in the rope log on the same day.',
    '# Inspection of the track ropes',
    'Track ropes are inspected from the inspection car, at walking pace, with two people aboard. Work stops at a wind of *15 metres a second*.',
    '- Broken wires within a lay length',
    '- Corrosion beneath the saddles',
    '- Displacement at the anchorages',
    '# Discard',
    'A rope is discarded when the loss of metallic area exceeds ten per cent over forty diameters, or six per cent over six diameters.',
    '# Records',
    'Records are kept for the life of the rope and five years beyond.',
  ],
  evacuation: [
    '# Scope',
    'This plan covers the evacuation of passengers from cabins standing on the Midfell span, with the drive out of order and no auxiliary drive available.',
    '# Alarm',
    'The lift supervisor alarms the rescue team, stops ticket sales and informs waiting guests within five minutes.',
    '# Technical review of the span',
    'Towers four to nine are reached from the service road; tower six only on foot in snow.',
    '1. Read the wind at tower six.',
    '2. Decide between recovery by the auxiliary drive and roping down.',
    '3. Send two teams of three, one from each end of the span.',
    '# Roping down',
    'Each team lowers one cabin in at most twenty minutes. Children are lowered in the small seat, with an adult waiting below.',
    '# Return to service',
    'The span is released by the operations manager after every cabin has been counted.',
  ],
  gripTest: [
    '# Before the work',
    'Take the carrier off the line and secure it in the workshop. Record the number of the grip.',
    '# Dismantling',
    '1. Release the spring pack with the press; never by hand.',
    '2. Lay out all parts in the order in which they were taken off.',
    '3. Clean each part and dry it.',
    '# Crack test',
    'Magnetic particle testing of the jaws, the lever and both pins, by a certified tester. A part with any linear indication is scrapped.',
    '# Assembly',
    'Torque the four bolts crosswise to *85 newton metres* and seal them with paint.',
  ],
  ropePrices: [
    '# Prices',
    'Haul rope, 38 mm, 6 x 26 Warrington-Seale, galvanised, 1,480 m: *142,000*.',
    'Long splice on site, two splicers, four days: *27,500*.',
    'Transport to Low Quay and return of the empty drum: *14,500*.',
    '# Validity',
    'The prices hold for ninety days from the date of the offer.',
  ],
  ropeAnnex: [
    '# Rope',
    '- Nominal diameter 38 mm, tolerance +2 / +5 per cent when new',
    '- Minimum breaking force 942 kN',
    '- Lang lay, right hand',
    '# Certificate',
    'Each drum comes with a certificate of its tests. The drum is earthed during splicing.',
  ],
  ropeSupply: [
    '# Parties',
    'Marrowfell Ropeway, Low Quay, and Tessel Wire Works.',
    '# Delivery',
    'Tessel Wire Works delivers one haul rope of 1,840 metres, 30 millimetres, compacted strand, with a certificate of its breaking load.',
    '# Price',
    'The price is 184,000, payable in three parts: on order, on delivery, after the first inspection.',
    '# Splicing and instruction',
    'The supplier splices the rope on site and instructs two mechanics of the ropeway.',
    '# Liability',
    'The supplier is liable for defects for sixty months from the first run.',
    '# Signatures',
    'Signed for the supplier and for the ropeway.',
    ' ',
    `For Tessel Wire Works: ${signatureLine} Date: ${dateLine}`,
    ' ',
    `For Marrowfell Ropeway: ${signatureLine} Date: ${dateLine}`,
  ],
  readiness: [
    '# Installation',
    'Aerial ropeway Low Quay to Midfell, cabins 1 to 24, and the Summit chairlift.',
    '# Examined',
    '- Evacuation equipment of the Midfell span',
    '- Brakes of the main and the auxiliary drive',
    '- Grips 1 to 48 by crack test',
    '- Line inspection of the haul rope',
    '# Declaration',
    'The undersigned have examined the installation on site and found it complete and ready for the winter season.',
    ' ',
    `Operations: ${signatureLine}`,
    ' ',
    `Safety: ${signatureLine}`,
    ' ',
    `Inspection body: ${signatureLine} Date: ${dateLine}`,
  ],
  loneWorking: [
    '# Who works alone',
    'Whoever works out of sight and call of others for longer than thirty minutes works alone in the sense of this policy.',
    '# Signing out and in',
    'Every lone worker signs out with the control room and calls in every hour. A missed call is followed up within ten minutes.',
    '# What is never done alone',
    '- Work on the rope or on a tower above three metres',
    '- Work with the drive cover open',
    '- Snow clearing below cornices',
  ],
  windLog: [
    '# Entries',
    'Guest services enters wind, gusts and stops each day before opening, and after every storm.',
    '# Quarter',
    'The log goes round at the end of each quarter.',
  ],
  brakeTest: [
    '# Purpose',
    'The service brake and the safety brake of the drive are tested monthly, before the first run of the day.',
    '# Test',
    '1. Run empty at full speed and apply the service brake; note the distance.',
    '2. Repeat with the safety brake.',
    '3. Compare both with the table.',
    '# Table',
    'At 5 metres a second the distance lies between 11 and 16 metres. Torque at the caliper: *310 newton metres*.',
  ],
  briefing: [
    '# Welcome',
    'Seasonal staff are briefed before their first shift.',
    '# Rules',
    '- Never enter the loading area against the direction of travel',
    '- Stop first, ask afterwards',
    '- The red button is yours to press',
  ],
  nightWork: [
    '# Permit',
    'Night work on the line needs this permit, issued for one night and one crew.',
    '# Conditions',
    '- Two radios, tested',
    '- Wind below 12 metres a second',
    '- The control room staffed',
  ],
  mast: [
    '# Subject',
    'Access of a telecommunications operator to the radio mast on the Summit.',
    '# Access',
    'By chairlift during operation, otherwise on foot and with notice.',
    '# Fee',
    'A yearly fee, indexed.',
  ],
} as const;
