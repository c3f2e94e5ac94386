'use client';

import { Box } from '@chakra-ui/react';
import { useState } from 'react';
import { pageRangesIn, pageRangesText } from '@/core/route/pageRanges';
import { type Seat, stagesOf } from '@/core/route/route';
import { verbFacts } from '@/core/route/verbs';
import type { CirculationView } from '@/server/circulation/view';
import { TextField, Tick } from '../parts/form';
import type { Planning } from './usePlanning';
import { circulationWords } from './words';

const words = circulationWords.plan;
type ViewFile = CirculationView['versions'][number]['files'][number];

/** What a seat decides on: which files of the bundle, which pages of them, which values. */
export function SeatContent({ seat, planning }: { readonly seat: Seat; readonly planning: Planning }) {
  const { view, edit } = planning;
  const newest = view.versions[view.versions.length - 1];
  const documents = newest?.files.filter((file) => file.role === 'document') ?? [];
  const chosen = seat.files === 'all' ? documents.map((file) => file.id) : seat.files;
  const signs = stagesOf(planning.route).some(({ verb, seats }) => verbFacts[verb].signs && seats.includes(seat));
  const set = (change: Partial<Pick<Seat, 'files' | 'pages' | 'facts'>>) =>
    edit({ do: 'changeSeat', seat: seat.id, with: change });
  return (
    <>
      {documents.length > 1 && (
        <Box>
          <Box fontSize="13px" color="quiet">
            {words.ownFiles}
          </Box>
          {documents.map((file) => (
            <Tick
              key={file.id}
              checked={chosen.includes(file.id)}
              disabled={chosen.length === 1 && chosen[0] === file.id}
              onChecked={(on) => {
                const next = on ? [...chosen, file.id] : chosen.filter((id) => id !== file.id);
                set({
                  files: next.length === documents.length ? 'all' : next,
                  pages: seat.pages.filter((range) => next.includes(range.file)),
                });
              }}
            >
              {file.name}
            </Tick>
          ))}
        </Box>
      )}
      {/* What is signed is signed whole. */}
      {!signs &&
        documents
          .filter((file) => chosen.includes(file.id) && file.pages.length > 1)
          .map((file) => (
            <PagesField
              key={`${file.id} ${file.file}`}
              file={file}
              several={documents.length > 1}
              pages={seat.pages.filter((range) => range.file === file.id)}
              onPages={(pages) => set({ pages: [...seat.pages.filter((range) => range.file !== file.id), ...pages] })}
            />
          ))}
      {view.factTypes.length > 0 && (
        <Box mt="6px">
          <Box fontSize="13px" color="quiet">
            {words.ownFacts}
          </Box>
          {view.factTypes.map(({ id, name }) => (
            <Tick
              key={id}
              checked={seat.facts.includes(id)}
              onChecked={(on) => set({ facts: on ? [...seat.facts, id] : seat.facts.filter((one) => one !== id) })}
            >
              {name}
            </Tick>
          ))}
        </Box>
      )}
    </>
  );
}

/** The pages of one file that somebody decides on, as one writes them. */
function PagesField({
  file,
  several,
  pages,
  onPages,
}: {
  readonly file: ViewFile;
  readonly several: boolean;
  readonly pages: Seat['pages'];
  readonly onPages: (pages: Seat['pages']) => void;
}) {
  const chosen = pageRangesText(pages);
  const [text, setText] = useState(chosen);
  const read = pageRangesIn(text, file.id, file.pages.length);
  // What is undone is undone here as well.
  const [before, setBefore] = useState(chosen);
  if (before !== chosen) {
    setBefore(chosen);
    if (read === null || pageRangesText(read) !== chosen) setText(chosen);
  }
  return (
    <Box maxW="320px" mt="6px">
      <TextField
        label={several ? words.ownPagesOf(file.name) : words.ownPages}
        fault={read === null ? words.noPages(file.pages.length) : null}
        help={words.pagesHelp}
        value={text}
        maxLength={200}
        placeholder={words.allPages}
        onChange={(event) => {
          setText(event.target.value);
          const next = pageRangesIn(event.target.value, file.id, file.pages.length);
          if (next) onPages(next);
        }}
      />
    </Box>
  );
}
