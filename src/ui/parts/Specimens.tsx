'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { useState } from 'react';
import { layoutLine } from '@/core/line/layout';
import type { LineModel, LineSeat, LineStage } from '@/core/line/line';
import { LineDrawing } from '../line/LineDrawing';
import { useLineWords } from '../line/LineParts';
import { TinyLine } from '../line/TinyLine';
import { type Colour, ink } from '../theme/system';
import { DueButton, GraveButton, SideButton, WordButton } from './buttons';
import { Fault, FormField, TextArea, TextInput } from './form';
import { Empty, Fact, Key, Leaf, Tray } from './parts';
import { Rows } from './Rows';
import { Tile } from './Tile';

const seat = (person: string, status: LineSeat['status'], mark: LineSeat['mark'] = 'none'): LineSeat => ({
  id: `${person} ${Math.random()}`,
  person,
  assignment: null,
  status,
  mark,
});
const stage = (
  verb: LineStage['verb'],
  status: LineStage['status'],
  seats: LineSeat[],
  more: Partial<LineStage> = {},
): LineStage => ({
  kind: 'stage',
  id: `${verb} ${seats.map((s) => s.id).join()}`,
  verb,
  order: 'together',
  quota: null,
  status,
  stopped: false,
  waits: false,
  condition: 'none',
  seats,
  ...more,
});

const models: readonly { name: string; model: LineModel }[] = [
  {
    name: 'Review done, two branches under way, one late; approve; sign one after another',
    model: {
      ended: 'no',
      root: {
        kind: 'series',
        id: 'root',
        parts: [
          stage('review', 'done', [
            seat('petra', 'done', 'tick'),
            seat('rufus', 'done', 'tick'),
            seat('yuki', 'done', 'tick'),
          ]),
          {
            kind: 'parallel',
            id: 'p',
            name: '',
            quota: null,
            branches: [
              {
                id: 'technical',
                name: 'technical',
                condition: 'none',
                line: {
                  kind: 'series',
                  id: 'technical',
                  parts: [stage('approve', 'done', [seat('noor', 'done', 'tick')])],
                },
              },
              {
                id: 'commercial',
                name: 'commercial',
                condition: 'none',
                line: {
                  kind: 'series',
                  id: 'commercial',
                  parts: [
                    stage('approve', 'underWay', [seat('oskar', 'underWay', 'late'), seat('caspian', 'underWay')]),
                  ],
                },
              },
            ],
          },
          stage('approve', 'ahead', [seat('benedikt', 'ahead')]),
          stage('sign', 'ahead', [seat('lotte', 'ahead'), seat('benedikt', 'ahead')], { order: 'oneByOne' }),
        ],
      },
    },
  },
  {
    name: 'One declined, one returned, one missed; two of five needed; a long list folds',
    model: {
      ended: 'no',
      root: {
        kind: 'series',
        id: 'root',
        parts: [
          stage(
            'approve',
            'underWay',
            [
              seat('oskar', 'underWay', 'cross'),
              seat('petra', 'underWay', 'return'),
              seat('yuki', 'underWay', 'missed'),
              seat('noor', 'done', 'tick'),
              seat('dalia', 'underWay'),
            ],
            { quota: 2, stopped: true },
          ),
          stage(
            'read',
            'ahead',
            ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h', 'i', 'j', 'k', 'l', 'm', 'n'].map((person) =>
              seat(person, 'ahead'),
            ),
          ),
        ],
      },
    },
  },
  {
    name: 'Released',
    model: {
      ended: 'completed',
      root: {
        kind: 'series',
        id: 'root',
        parts: [
          stage('approve', 'done', [seat('oskar', 'done', 'tick')]),
          stage('sign', 'done', [seat('benedikt', 'done', 'tick')]),
        ],
      },
    },
  },
];
const people = [
  'ines',
  'rufus',
  'petra',
  'oskar',
  'yuki',
  'noor',
  'dalia',
  'benedikt',
  'fenna',
  'caspian',
  'thea',
  'lotte',
  'jarek',
  'sanna',
];
const colours: readonly Colour[] = [
  'ground',
  'surface',
  'sunk',
  'hairline',
  'edge',
  'ink',
  'quiet',
  'ahead',
  'pine',
  'pineSoft',
  'copper',
  'copperSoft',
  'oxblood',
  'oxbloodSoft',
  'iris',
  'irisSoft',
];

/** Every part of the look on one page, to be looked at in light and dark before it is used. */
export function Specimens() {
  const lineWords = useLineWords();
  const [open, setOpen] = useState(false);
  const rows = Array.from({ length: 40 }, (_, i) => ({
    key: `r${i}`,
    title:
      i === 3
        ? 'A very long title of a document that goes on well past the width that a row has for it and must be cut with care'
        : `Rope inspection procedure ${i + 1}`,
    number: `MR-PRO-${String(i + 1).padStart(3, '0')}`,
  }));
  return (
    <Box flex="1" minH={0} overflowY="auto" px="24px" py="16px">
      <chakra.h1 fontSize="20px" mb="12px">
        Specimens
      </chakra.h1>
      {models.map(({ name, model }) => (
        <Box key={name} mb="18px">
          <Flex justify="space-between" color="quiet" align="center">
            {name}
            <TinyLine
              model={model}
              tone={name.includes('declined') ? 'oxblood' : name.includes('late') ? 'copper' : 'pine'}
              words={lineWords}
            />
          </Flex>
          <LineDrawing
            model={model}
            width={1180}
            labels={{
              fact: (id) => ({
                text:
                  layoutLine(model, { width: 1180, density: 'large' }).labels.length > 2
                    ? 'due Thu 3 Dec'
                    : `fact of ${id.slice(0, 7)}`,
              }),
            }}
            onPlace={() => {}}
          />
        </Box>
      ))}
      <Grid templateColumns="1fr 1fr" gap="32px">
        <Box>
          <Flex gap="10px" mb="14px" flexWrap="wrap" align="center">
            <DueButton>Send to 4 people</DueButton>
            <DueButton tone="iris">Use this signature</DueButton>
            <DueButton disabled>Issue version 4</DueButton>
            <SideButton>Amend</SideButton>
            <GraveButton>Withdraw …</GraveButton>
            <WordButton>Show</WordButton>
            <Key>Ctrl K</Key>
          </Flex>
          <FormField label="Why is it changed?" help="Everybody who is asked reads this.">
            {(props) => <TextInput {...props} defaultValue="Findings of last winter" />}
          </FormField>
          <FormField label="Your words" fault="Please give a reason.">
            {(props) => <TextArea {...props} />}
          </FormField>
          <Fault error={{ message: 'You had version 2 open. Version 3 is the newest; please read that one.' }} />
          <Flex gap="8px" flexWrap="wrap">
            {people.map((person) => (
              <Tile key={person} person={person} letters={person.slice(0, 2).toUpperCase()} size={34} />
            ))}
          </Flex>
        </Box>
        <Box>
          <Leaf label="pine">A leaf: what is due stands in it.</Leaf>
          <Box h="8px" />
          <Leaf label="copper" tone="copper">
            Late, or a conflict.
          </Leaf>
          <Box h="8px" />
          <Leaf label="oxblood" tone="oxblood">
            Declined, missed, destructive.
          </Leaf>
          <Box h="8px" />
          <Leaf label="iris" tone="iris">
            Signing only.
          </Leaf>
          <Flex gap="6px" mt="14px" flexWrap="wrap">
            {colours.map((colour) => (
              <Box key={colour} fontSize="12px" w="82px">
                <Box
                  h="26px"
                  border="1px solid"
                  borderColor="hairline"
                  borderRadius="4px"
                  style={{ background: ink(colour) }}
                />
                {colour}
              </Box>
            ))}
          </Flex>
        </Box>
      </Grid>
      <Empty title="No circulation here">A circulation begins with a change of a document.</Empty>
      <Flex direction="column" h="320px" border="1px solid" borderColor="hairline" pt="8px">
        <Rows
          label="Specimen rows"
          columns={[
            { name: 'number', width: '110px', cell: (row) => row.number },
            { name: 'document', width: 'minmax(0,1fr)', cell: (row) => row.title },
          ]}
          groups={[
            { title: 'Late', rows: rows.slice(0, 2) },
            { title: 'This week', rows: rows.slice(2) },
          ]}
          keyOf={(row) => row.key}
          nameOf={(row) => row.title}
          leaf={(row) => <Leaf label={row.title}>{row.title}</Leaf>}
          empty={null}
        />
        <Tray
          label="Tray"
          open={open}
          onToggle={() => setOpen(!open)}
          facts={
            <>
              <Fact name="Trail">10:42 Caspian Boyle opened version 5</Fact>
              <Fact name="Files">2</Fact>
            </>
          }
        >
          What the tray holds.
        </Tray>
      </Flex>
    </Box>
  );
}
