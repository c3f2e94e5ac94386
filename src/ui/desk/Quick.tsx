'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import type { Assignment } from '@/core/route/route';
import { type Refusal, type Uploaded, upload } from '../data/client';
import { useMe, usePeople, useTell } from '../data/use';
import { useKeptText } from '../data/useKept';
import { verbWords } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { DropPdf } from '../parts/DropPdf';
import { Choose, Fault, FormField, TextArea, TextInput } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { PeoplePicker } from '../parts/PeoplePicker';
import { Leaf, PersonName } from '../parts/parts';
import { deskWords } from './words';

const words = deskWords.quick;

const verbs = ['approve', 'review', 'sign', 'read'] as const;

/** A file, a few people, sent: everything else comes by default and can be completed later. */
export function Quick({ dropped, onDone }: { readonly dropped: File | null; readonly onDone: () => void }) {
  const { data: me } = useMe();
  const { name } = usePeople();
  const chooser = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<Uploaded | null>(null);
  const [progress, setProgress] = useState<number | null>(null);
  const [fault, setFault] = useState<Refusal | null>(null);
  const [title, setTitle] = useState('');
  const [verb, setVerb] = useState<(typeof verbs)[number]>('approve');
  const [people, setPeople] = useState<readonly Assignment[]>([]);
  const [due, setDue] = useState<number | null>(null);
  const [text, setText] = useKeptText(`quick.${me?.me.id}`);
  const send = useTell('desk.sendQuick', {
    after: () => {
      setText('');
      onDone();
    },
  });

  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    setFault(null);
    setProgress(0);
    try {
      setFile(await upload(chosen, setProgress));
      setTitle(
        (before) =>
          before ||
          chosen.name
            .replace(/\.pdf$/i, '')
            .replace(/[_-]+/g, ' ')
            .trim(),
      );
    } catch (error) {
      setFault(error as Refusal);
    }
    setProgress(null);
  };

  const takeIn = useRef(take);
  takeIn.current = take;
  // A file dropped anywhere on the Desk is taken in at once.
  const first = useRef(dropped);
  useEffect(() => {
    const file = first.current;
    first.current = null;
    if (file) void takeIn.current(file);
  }, []);

  return (
    <Leaf label={words.title}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          if (file) send.mutate({ file: file.file, name: file.name, title, verb, people, due, note: text });
        }}
      >
        <Flex gap="28px" flexWrap={{ base: 'wrap', md: 'nowrap' }}>
          <Box flex="1" minW="260px">
            {file ? (
              <Flex align="center" gap="10px" mb="14px">
                <Box fontWeight={600} truncate>
                  {file.name}
                </Box>
                <WordButton onClick={() => chooser.current?.click()}>{words.another}</WordButton>
              </Flex>
            ) : (
              <DropPdf
                mb="14px"
                minH="92px"
                saying={progress === null ? words.drop : progress < 1 ? words.uploading(progress) : words.checking}
                onChoose={() => chooser.current?.click()}
                onFile={(file) => void take(file)}
              />
            )}
            <chakra.input
              ref={chooser}
              type="file"
              accept="application/pdf,.pdf"
              display="none"
              aria-label={words.choose}
              onChange={(event) => void take(event.target.files?.[0])}
            />
            <Fault error={fault} />
            <FormField label={words.documentTitle}>
              {(props) => (
                <TextInput
                  {...props}
                  required
                  maxLength={200}
                  value={title}
                  onChange={(event) => setTitle(event.target.value)}
                />
              )}
            </FormField>
            <FormField label={words.note}>
              {(props) => (
                <TextArea {...props} maxLength={4000} value={text} onChange={(event) => setText(event.target.value)} />
              )}
            </FormField>
          </Box>
          <Box flex="1" minW="260px">
            <Box fontSize="13px" color="quiet" mb="4px">
              {words.people}
            </Box>
            {people.map((who) => (
              <Flex key={who.person} align="center" justify="space-between" py="3px">
                <PersonName id={who.person} />
                <WordButton
                  aria-label={`${words.takeOut}: ${name(who.person)}`}
                  onClick={() => setPeople(people.filter((other) => other !== who))}
                >
                  ×
                </WordButton>
              </Flex>
            ))}
            <PeoplePicker
              label={words.addPerson}
              exclude={[...people.map((who) => who.person), ...(verb === 'approve' && me ? [me.me.id] : [])]}
              onPick={(who) => setPeople([...people, who])}
            />
            <Flex gap="14px" mt="14px">
              <FormField label={words.verb}>
                {(props) => (
                  <Choose
                    {...props}
                    value={verb}
                    onChange={(event) => setVerb(event.target.value as (typeof verbs)[number])}
                  >
                    {(['approve', 'review', 'sign', 'read'] as const).map((option) => (
                      <option key={option} value={option}>
                        {verbWords[option]}
                      </option>
                    ))}
                  </Choose>
                )}
              </FormField>
              <FormField label={words.due}>
                {(props) => <MomentInput {...props} value={due} onChange={setDue} />}
              </FormField>
            </Flex>
          </Box>
        </Flex>
        <Fault error={send.error} />
        <Flex align="center" gap="14px" flexWrap="wrap">
          <Box flex="1" color="quiet" fontSize="13px" minW="240px">
            {words.note}
          </Box>
          <WordButton onClick={onDone}>{words.cancel}</WordButton>
          <DueButton type="submit" busy={send.isPending} disabled={!file || people.length === 0 || title.trim() === ''}>
            {people.length === 0 ? words.nobody : words.send(people.length)}
          </DueButton>
        </Flex>
      </chakra.form>
    </Leaf>
  );
}
