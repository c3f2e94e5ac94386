'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRef } from 'react';
import { verbFacts } from '@/core/route/verbs';
import { usePeople } from '../data/people';
import { verbWords } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { DropPdf } from '../parts/DropPdf';
import { AreaField, Fault, FormField, TextField, WordedChoice } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { PeoplePicker } from '../parts/PeoplePicker';
import { Leaf, PersonName } from '../parts/parts';
import { quickVerbs, useQuick } from './useQuick';
import { deskWords } from './words';

const words = deskWords.quick;

/** A file, a few people, sent: everything else comes by default and can be completed later. */
export function Quick({ dropped, onDone }: { readonly dropped: File | null; readonly onDone: () => void }) {
  const { name } = usePeople();
  const chooser = useRef<HTMLInputElement>(null);
  const quick = useQuick(dropped, onDone);
  const { progress, change, take } = quick;
  const { file, title, verb, people, due, note } = quick.filled;
  return (
    <Leaf label={words.title}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          quick.send();
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
            <Fault error={quick.fault} />
            <TextField
              label={words.documentTitle}
              required
              maxLength={200}
              value={title}
              onChange={(event) => change({ title: event.target.value })}
            />
            <AreaField
              label={words.words}
              maxLength={4000}
              value={note}
              onChange={(event) => change({ note: event.target.value })}
            />
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
                  onClick={() => change({ people: people.filter((other) => other !== who) })}
                >
                  ×
                </WordButton>
              </Flex>
            ))}
            <PeoplePicker
              label={words.addPerson}
              why={(person) => (person === quick.me ? words.own : words.already(name(person)))}
              exclude={[
                ...people.map((who) => who.person),
                ...(verbFacts[verb].keepsAuthorOut && quick.me ? [quick.me] : []),
              ]}
              onPick={(who) => change({ people: [...people, who] })}
            />
            <Flex gap="14px" mt="14px">
              <WordedChoice
                label={words.verb}
                of={quickVerbs}
                words={verbWords}
                value={verb}
                onValue={(chosen) => change({ verb: chosen })}
              />
              <FormField label={words.due}>
                {(props) => <MomentInput {...props} value={due} onChange={(at) => change({ due: at })} />}
              </FormField>
            </Flex>
          </Box>
        </Flex>
        <Fault error={quick.refused} />
        <Flex align="center" gap="14px" flexWrap="wrap">
          <Box flex="1" color="quiet" fontSize="13px" minW="240px">
            {words.note}
          </Box>
          <WordButton onClick={quick.cancel}>{words.cancel}</WordButton>
          <DueButton type="submit" busy={quick.sending} disabled={!quick.ready}>
            {people.length === 0 ? words.nobody : words.send(people.length)}
          </DueButton>
        </Flex>
      </chakra.form>
    </Leaf>
  );
}
