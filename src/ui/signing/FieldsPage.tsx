'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRef } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { useAssignments } from '../data/organization';
import { usePeople } from '../data/people';
import { useEscape } from '../data/useEscape';
import { Answered } from '../parts/Answered';
import { DueButton, WordButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { documentName } from '../parts/documentName';
import { Fault } from '../parts/form';
import { Link } from '../parts/Link';
import { PageHead } from '../parts/parts';
import { DocumentPages } from './DocumentPages';
import { FieldBox } from './FieldBox';
import { FieldLeaf } from './FieldLeaf';
import { FieldsTray } from './FieldsTray';
import { type FieldsWork, useFields } from './useFields';
import { fieldsWords as words } from './words';

export function FieldsPage({ circulation }: { readonly circulation: string }) {
  return (
    <Answered name="circulation.view" input={{ circulation }}>
      {(view) => <Fields view={view} />}
    </Answered>
  );
}

/** Puts fields on the pages: a press puts one where it was made and opens it, to say whose and what it is. */
function Fields({ view }: { readonly view: CirculationView }) {
  const { person } = usePeople();
  const { letters } = useAssignments();
  const scroller = useRef<HTMLDivElement>(null);
  const work = useFields(view, scroller);
  useEscape(() => work?.close());
  if (!work || work.signing.length === 0) return <Box p="24px">{work ? words.nobody : words.noVersion}</Box>;
  const { main, documents, fields, findings, frozen, seatOf, nameOf } = work;
  const faulty = new Set(findings.flatMap((one) => ('other' in one ? [one.field, one.other] : [one.field])));

  return (
    <>
      <Head view={view} work={work} />
      {documents.length > 1 && (
        <Box px="24px" pb="8px" flex="none">
          <ChoiceRow
            label={words.documents}
            choices={documents.map((file) => ({ key: file.id, name: documentName(file.name, view.record.number) }))}
            chosen={main.id}
            onChoose={work.showDocument}
          />
        </Box>
      )}
      <DocumentPages
        label={words.title(view.record.title)}
        url={`/file/circulation/${view.id}/${main.file}`}
        pages={work.pages}
        ticks={fields.map((field) => ({ key: field.id, page: field.page, y: field.y, tone: 'iris' }))}
        widest={860}
        scroller={scroller}
        onSpot={frozen ? undefined : (spot) => work.putAt(spot.page, spot.x, spot.y)}
        overlay={(page, scale) =>
          fields
            .flatMap((field) => {
              const seat = field.page === page ? seatOf(field) : undefined;
              return seat ? [{ field, seat }] : [];
            })
            .map(({ field, seat }) => (
              <Box key={field.id}>
                <FieldBox
                  field={field}
                  scale={scale}
                  chosen={work.chosen === field.id}
                  fixed={frozen}
                  fault={faulty.has(field.id)}
                  holder={seat.holder}
                  letters={person(seat.holder)?.tile ?? (seat.planned ? letters(seat.planned) : '··')}
                  name={nameOf(seat)}
                  onChoose={() => work.choose(field.id)}
                  onOpen={() => work.open(field.id)}
                  onChange={(part) => work.change(field.id, part)}
                  onRemove={() => work.remove(field)}
                />
                {work.opened === field.id && !frozen && <FieldLeaf field={field} scale={scale} work={work} />}
              </Box>
            ))
        }
      />
      <FieldsTray work={work} />
    </>
  );
}

/** What the page is for, what is not kept yet, and keeping it. */
function Head({ view, work }: { readonly view: CirculationView; readonly work: FieldsWork }) {
  const { frozen, missing, findings } = work;
  const opens = missing.length === 0 && view.fieldsWanted && view.stages.some((stage) => stage.held === 'fields');
  return (
    <>
      <PageHead
        above={
          <>
            <chakra.span color="pine" textDecoration="underline" textUnderlineOffset="2px" asChild>
              <Link href={`/circulations/${view.id}`}>{view.number}</Link>
            </chakra.span>
            {` · ${view.record.number}`}
          </>
        }
        title={words.title(view.record.title)}
        below={<chakra.span color="quiet">{frozen ? words.frozen : words.below}</chakra.span>}
      >
        {!frozen && (
          <>
            <chakra.span color={missing.length > 0 ? 'copperText' : 'quiet'} fontSize="13px">
              {findings.length > 0 ? words.faulty : words.doneMore(missing.length)} {opens ? words.opens : ''}
            </chakra.span>
            <DueButton busy={work.busy} disabled={findings.length > 0} onClick={work.keep}>
              {words.done}
            </DueButton>
          </>
        )}
      </PageHead>
      <Box px="24px">
        <Fault error={work.error} />
        {!frozen && work.unkept && (
          <Flex gap="12px" align="center" pb="8px" color="copperText">
            {words.notKept}
            {work.undo && <WordButton onClick={work.undo}>{words.undo}</WordButton>}
            <WordButton onClick={work.asKept}>{words.asKept}</WordButton>
          </Flex>
        )}
        {!frozen && work.earlier && (
          <Box color="copperText" pb="8px">
            {words.before}
          </Box>
        )}
      </Box>
    </>
  );
}
