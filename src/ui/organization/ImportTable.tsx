'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRef, useState } from 'react';
import { csvOut, textOfBytes } from '@/core/formats/csv';
import type { TableKind } from '@/core/people/table';
import { ask, type OutputOf, type Refusal } from '../data/client';
import { download } from '../data/download';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { DueButton, SideButton } from '../parts/buttons';
import { Fault, Tick, WordedChoice } from '../parts/form';
import { organizationWords as words } from './words';

type Read = OutputOf<'organization.readTable'>;

/** People, units and group members from a CSV file: checked line by line first, and written only as a whole. */
export function ImportTable() {
  const file = useRef<HTMLInputElement>(null);
  const [table, setTable] = useState<TableKind>('people');
  const [content, setContent] = useState<{ text: string; encoding: string } | null>(null);
  const [read, setRead] = useState<Read | null>(null);
  const [error, setError] = useState<Refusal | null>(null);
  const [invite, setInvite] = useState(true);
  const write = useTell('organization.importTable', {
    answered: ({ added, changed }) => say(words.imported(added, changed)),
    after: () => {
      setRead(null);
      setContent(null);
    },
  });
  const check = async (kind: TableKind, text: string) => {
    setError(null);
    setRead(null);
    try {
      setRead(await ask('organization.readTable', { table: kind, content: text }));
    } catch (fault) {
      setError(fault as Refusal);
    }
  };
  const take = async (picked: File) => {
    const found = textOfBytes(new Uint8Array(await picked.arrayBuffer()));
    setContent(found);
    await check(table, found.text);
  };
  /** What there is now, to be changed and read again. */
  const give = async () => {
    setError(null);
    try {
      download(`${table}.csv`, csvOut(await ask('organization.table', { table })), 'text/csv');
    } catch (fault) {
      setError(fault as Refusal);
    }
  };
  const count = (does: 'add' | 'change' | 'nothing') => read?.lines.filter((line) => line.does === does).length ?? 0;
  const columns = read ? Object.keys(read.lines[0]?.values ?? {}) : [];
  return (
    <Box maxW="1100px">
      <Flex gap="16px" align="flex-end" flexWrap="wrap">
        <Box w="220px">
          <WordedChoice
            label={words.tableKind}
            of={Object.keys(words.tables) as TableKind[]}
            words={words.tables}
            value={table}
            onValue={(kind) => {
              setTable(kind);
              if (content) void check(kind, content.text);
            }}
          />
        </Box>
        <Box pb="14px">
          <Flex gap="10px">
            <SideButton onClick={() => file.current?.click()}>{words.chooseFile}</SideButton>
            <SideButton onClick={() => void give()}>{words.present}</SideButton>
          </Flex>
        </Box>
        <Box pb="20px" color="quiet" flex="1" minW="260px">
          {words.tableHelp[table]}
        </Box>
        <input
          ref={file}
          type="file"
          accept=".csv,text/csv"
          hidden
          onChange={(event) => {
            const [picked] = event.target.files ?? [];
            event.target.value = '';
            if (picked) void take(picked);
          }}
        />
      </Flex>
      <Fault error={error ?? write.error} />
      {!read && <Box maxW="620px">{words.importMore}</Box>}
      {read && content && (
        <>
          <Flex gap="16px" align="center" flexWrap="wrap" mb="10px">
            <Box flex="1" role="status">
              {read.faults > 0 ? (
                <chakra.span color="oxblood">{words.faults(read.faults)}</chakra.span>
              ) : (
                words.checked(count('add'), count('change'), count('nothing'))
              )}{' '}
              <chakra.span color="quiet">{words.readAs(content.encoding)}</chakra.span>
            </Box>
            {table === 'people' && count('add') > 0 && (
              <Tick checked={invite} onChecked={setInvite}>
                {words.invite}
              </Tick>
            )}
            <DueButton
              disabled={read.faults > 0 || count('add') + count('change') === 0}
              busy={write.isPending}
              onClick={() => write.mutate({ table, content: content.text, invite, sign: read.sign })}
            >
              {words.importDo(count('add') + count('change'))}
            </DueButton>
          </Flex>
          {[...read.lines]
            .sort((a, b) => Number(b.faults.length > 0) - Number(a.faults.length > 0) || a.line - b.line)
            .slice(0, 300)
            .map((line) => (
              <Flex key={line.line} gap="14px" py="4px" borderTop="1px solid" borderColor="hairline">
                <Box w="64px" color="quiet" flex="none">
                  {words.line(line.line)}
                </Box>
                <Box w="60px" flex="none" color={line.faults.length > 0 ? 'oxblood' : 'quiet'} fontWeight={600}>
                  {line.faults.length > 0 ? '!' : words.does[line.does]}
                </Box>
                <Box flex="1" minW={0}>
                  {columns
                    .map((column) => line.values[column])
                    .filter(Boolean)
                    .join(' · ')}
                  {line.faults.length > 0 && (
                    <Box color="oxblood">
                      {line.faults.map(({ column, why }) => `${column}: ${words.lineFaults[why]}`).join('; ')}
                    </Box>
                  )}
                </Box>
              </Flex>
            ))}
        </>
      )}
    </Box>
  );
}
