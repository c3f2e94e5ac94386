'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import { csvOut } from '@/core/formats/csv';
import { download } from '../data/download';
import { usePeople } from '../data/people';
import { useAsk, useTimes } from '../data/use';
import { verbWords } from '../line/words';
import { SideButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Link } from '../parts/Link';
import { PageHead, PersonName } from '../parts/parts';
import { partWords } from '../parts/words';
import { deskWords } from './words';

const words = deskWords.load;
const hour = 3_600_000;

/** Who has how much, how late, and where it waits longest; each list also as CSV. */
export function LoadPage() {
  const { data, error } = useAsk('desk.load');
  const { data: types } = useAsk('register.types');
  const { name } = usePeople();
  const times = useTimes();
  const type = (code: string) => types?.find((one) => one.code === code)?.name ?? code;
  const waited = (ms: number) => words.waited(Math.round(ms / hour));
  const since = (at: number) => waited(times.now() - at);
  const figures = (row: {
    readonly open: number;
    readonly late: number;
    readonly longest: number;
    readonly average: number;
  }) => [String(row.open), String(row.late), since(row.longest), waited(row.average)];
  return (
    <>
      <PageHead
        above={
          <chakra.span color="pine" textDecoration="underline" textUnderlineOffset="2px" asChild>
            <Link href="/circulations">{partWords.pages.circulations}</Link>
          </chakra.span>
        }
        title={words.title}
        below={<chakra.span color="quiet">{words.more}</chakra.span>}
      />
      <Box flex="1" minH={0} overflowY="auto" px={{ base: '12px', md: '24px' }} pb="24px">
        <Fault error={error} />
        {data && (
          <>
            <Figures
              title={words.kinds}
              file="load-by-task.csv"
              heads={[words.task, words.type, ...words.figures]}
              empty={words.nothing}
              rows={data.kinds.map((row) => ({
                key: `${row.verb} ${row.documentType}`,
                cells: [verbWords[row.verb], type(row.documentType), ...figures(row)],
                late: row.late > 0,
              }))}
            />
            <Figures
              title={words.people}
              file="load-by-person.csv"
              heads={[words.person, ...words.figures]}
              empty={words.nobody}
              rows={data.people.map((row) => ({
                key: row.person,
                cells: [name(row.person), ...figures(row)],
                first: <PersonName id={row.person} />,
                late: row.late > 0,
              }))}
            />
          </>
        )}
      </Box>
    </>
  );
}

function Figures({
  title,
  file,
  heads,
  rows,
  empty,
}: {
  readonly title: string;
  readonly file: string;
  readonly heads: readonly string[];
  readonly rows: readonly {
    readonly key: string;
    readonly cells: readonly string[];
    readonly first?: ReactNode;
    readonly late: boolean;
  }[];
  readonly empty: string;
}) {
  // The last four are figures: open, late, longest, average.
  const figure = (i: number) => i >= heads.length - 4;
  return (
    <Box as="section" mb="26px">
      <Flex align="center" gap="14px" mb="6px">
        <chakra.h2 fontSize="15px" flex="1">
          {title}
        </chakra.h2>
        {rows.length > 0 && (
          <SideButton onClick={() => download(file, csvOut([heads, ...rows.map(({ cells }) => cells)]), 'text/csv')}>
            {words.csv}
          </SideButton>
        )}
      </Flex>
      {rows.length === 0 ? (
        <Box color="quiet">{empty}</Box>
      ) : (
        <Box overflowX="auto">
          <chakra.table w="100%" fontVariantNumeric="tabular-nums">
            <thead>
              <tr>
                {heads.map((head, i) => (
                  <chakra.th
                    key={head}
                    textAlign={figure(i) ? 'end' : 'start'}
                    fontSize="12.5px"
                    fontWeight={400}
                    color="quiet"
                    pb="6px"
                    px="8px"
                  >
                    {head}
                  </chakra.th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map(({ key, cells, first, late }) => (
                <chakra.tr key={key} borderTop="1px solid" borderColor="hairline" h="38px">
                  {cells.map((cell, i) => (
                    <chakra.td
                      key={heads[i]}
                      px="8px"
                      textAlign={figure(i) ? 'end' : 'start'}
                      color={late && i === heads.length - 3 ? 'copperText' : undefined}
                      fontWeight={late && i === heads.length - 3 ? 600 : undefined}
                    >
                      {i === 0 && first ? first : cell}
                    </chakra.td>
                  ))}
                </chakra.tr>
              ))}
            </tbody>
          </chakra.table>
        </Box>
      )}
    </Box>
  );
}
