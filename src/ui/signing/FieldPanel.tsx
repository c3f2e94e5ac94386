'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { dayOnPage } from '@/core/page/fields';
import { wallClock } from '@/core/time/zone';
import type { SeatView } from '@/server/signing/view';
import { WordButton } from '../parts/buttons';
import { DayInput } from '../parts/DayInput';
import { TextInput, Tick } from '../parts/form';
import { HandMark } from './HandMark';
import type { Signing } from './useSigning';
import { signingWords as words } from './words';

/** The field that is being filled in, large, above the bar: one at a time, while its place stays in sight on the page. */
export function FieldPanel({
  view,
  signing,
  base,
}: {
  readonly view: SeatView;
  readonly signing: Signing;
  readonly base: string;
}) {
  const { current: field, fields, values } = signing;
  if (!field) return null;
  const value = values[field.id];
  const at = fields.indexOf(field);
  const [before, after] = [fields[at - 1], fields[at + 1]];
  const label = field.label || words.yourField(field.kind);
  const today = wallClock(view.me?.zone ?? 'UTC', Date.now()).slice(0, 10);
  return (
    <Box role="group" aria-label={label} pb="10px" mb="10px" borderBottom="1px solid" borderColor="hairline">
      <Flex align="center" gap="14px" mb="8px">
        <chakra.h2 flex="1" fontSize="15px">
          {label}
          <chakra.span color="quiet" fontWeight={400}>
            {fields.length > 1 && ` · ${words.ofFields(at + 1, fields.length)}`}
            {!field.needed && ` · ${words.optional}`}
          </chakra.span>
        </chakra.h2>
        {before && (
          <WordButton color="quiet" onClick={() => signing.goTo(before)}>
            {words.previous}
          </WordButton>
        )}
        {after && !signing.left.includes(field) && (
          <WordButton color="quiet" onClick={() => signing.goTo(after)}>
            {words.next}
          </WordButton>
        )}
        <WordButton color="quiet" onClick={signing.leaveField}>
          {words.close}
        </WordButton>
      </Flex>
      {field.kind === 'signedOn' ? (
        <Box>{words.signedOnMore(dayOnPage(today))}</Box>
      ) : field.kind === 'date' ? (
        <DayInput
          key={field.id}
          aria-label={label}
          today={today}
          value={value?.kind === 'day' ? value.day : null}
          onChange={(day) => signing.fill(field, day === null ? undefined : { kind: 'day', day })}
        />
      ) : field.kind === 'tick' ? (
        <Tick
          checked={value?.kind === 'ticked' && value.ticked}
          onChecked={(ticked) => signing.fill(field, ticked ? { kind: 'ticked', ticked } : undefined)}
        >
          {field.label || words.tickIt}
        </Tick>
      ) : field.kind === 'signature' || field.kind === 'initials' ? (
        <HandMark
          key={field.id}
          owner={field.kind === 'initials' ? (view.me?.tile ?? '') : (view.me?.name ?? '')}
          field={field}
          base={base}
          value={value}
          onChange={(given) => signing.fill(field, given)}
        />
      ) : (
        <TextInput
          key={field.id}
          aria-label={label}
          autoFocus
          dir="auto"
          fontSize="16px"
          maxLength={500}
          value={value?.kind === 'text' ? value.text : ''}
          onChange={(event) =>
            signing.fill(field, event.target.value ? { kind: 'text', text: event.target.value } : undefined)
          }
        />
      )}
      {signing.missing === field.id && (
        <Box role="alert" color="copperText" mt="6px">
          {words.missing(field.kind)}
        </Box>
      )}
    </Box>
  );
}
