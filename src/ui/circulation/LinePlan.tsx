'use client';

import { Box } from '@chakra-ui/react';
import { useMemo, useRef } from 'react';
import type { Drawing, LineSlot } from '@/core/line/layout';
import { findPart } from '@/core/route/edit';
import { partsOf, type Route, type Series, type Stage, stagesOf } from '@/core/route/route';
import { durationText } from '@/core/time/moment';
import { useAssignments } from '../data/organization';
import { useTimes } from '../data/use';
import { LineDrawing, type LineFact } from '../line/LineDrawing';
import { ruleWords, verbWords } from '../line/words';
import { ink } from '../theme/system';
import { useLineLabels } from './lineLabels';
import { type Landing, useLineDrag } from './useLineDrag';
import type { Planning } from './usePlanning';
import { circulationWords, findingWords } from './words';

const words = circulationWords.plan;

/** The line while it is planned, edited in place: what is pressed opens, what is dragged shows where it would hang. */
export function LinePlan({ planning, width }: { readonly planning: Planning; readonly width: number }) {
  const { route, model, stages, editable, open, unfolded } = planning;
  const times = useTimes();
  const { called } = useAssignments();
  const labels = useLineLabels(planning.view, route);
  const svg = useRef<SVGSVGElement>(null);
  const dragging = useLineDrag(svg, route, editable, (edit) => {
    planning.edit(edit);
  });
  const { landing, drag, drawn } = dragging;
  const shown = useMemo(() => new Set([...unfolded, ...(open === null ? [] : [open])]), [unfolded, open]);
  const seatName = (id: string) => {
    const seat = stages.flatMap((stage) => stage.seats).find((one) => one.id === id);
    return seat ? called(seat.assignment) : '';
  };
  const fact = (id: string): LineFact | null => {
    const stage = stages.find((candidate) => candidate.id === id);
    if (!stage) return null;
    if (stage.seats.length === 0) return { text: findingWords.nobody, tone: 'oxblood' };
    const due =
      stage.due === null
        ? ''
        : stage.due.kind === 'after'
          ? durationText(stage.due)
          : words.dueOn(times.day(stage.due.at));
    const rule = stage.rule.kind === 'all' ? '' : ruleWords(stage.rule, stage.seats.length);
    const gathers = stage.onReturn === 'gather' ? words.gathers : '';
    const text = [due, rule, gathers].filter(Boolean).join(', ');
    return text ? { text } : null;
  };
  return (
    <Box
      {...dragging.handlers}
      cursor={drag ? 'grabbing' : undefined}
      css={{ touchAction: editable ? 'pan-x' : 'auto', userSelect: 'none' }}
      onKeyDown={(event) => event.key === 'Escape' && dragging.cancel()}
    >
      <LineDrawing
        model={model}
        width={width}
        svg={svg}
        selected={open}
        open={shown}
        labels={{
          fact,
          ...labels,
        }}
        onPlace={(place) => {
          if (place.kind === 'stage') planning.select(place.stage);
          else if (place.kind === 'copies') planning.select(place.copies);
          else if (place.kind === 'branch') planning.select(place.branch);
          else planning.unfold(place.parallel);
        }}
        over={(drawing) => {
          drawn.current = drawing;
          return (
            <>
              {editable && !drag && <Slots drawing={drawing} planning={planning} />}
              {landing && drag && (
                <LandingMark
                  landing={landing}
                  text={
                    landing.kind === 'seat'
                      ? seatSentence(
                          seatName(drag.what.id),
                          stages.find((one) => one.id === landing.stage),
                        )
                      : partSentence(nameOf(route, drag.what.id), landing.slot, route)
                  }
                  width={drawing.width}
                />
              )}
            </>
          );
        }}
      />
    </Box>
  );
}

/** A sign at each tower: a stage can be added there. */
function Slots({ drawing, planning }: { readonly drawing: Drawing; readonly planning: Planning }) {
  const order = partsOf(planning.route).map((part) => part.id);
  // Where a fork begins and ends its first branch does, too: a stage that is added there comes before or after the fork;
  // and behind a board, where there is one.
  const outer = [...drawing.slots].sort((a, b) => order.indexOf(a.series) - order.indexOf(b.series) || b.at - a.at);
  const places = outer.filter(
    (slot, i) => outer.findIndex((one) => one.point.x === slot.point.x && one.point.y === slot.point.y) === i,
  );
  return places.map((slot) => {
    const press = () => planning.addAt({ series: slot.series, at: slot.at });
    return (
      // biome-ignore lint/a11y/useSemanticElements: a button inside a drawing
      <g
        key={`${slot.series} ${slot.at}`}
        role="button"
        tabIndex={0}
        aria-label={words.addHere(slotName(slot, planning.route))}
        transform={`translate(${slot.point.x} ${slot.point.y - 19})`}
        style={{ cursor: 'pointer' }}
        onClick={press}
        onKeyDown={(event) => {
          if (event.key !== 'Enter' && event.key !== ' ') return;
          event.preventDefault();
          press();
        }}
      >
        <circle r={12} fill="transparent" />
        <circle r={7.5} fill={ink('surface')} stroke={ink('ahead')} />
        <path d="M-3.500 0H3.500M0-3.500V3.500" stroke={ink('pine')} strokeWidth={1.6} />
      </g>
    );
  });
}

/** Where what is dragged would hang, with what follows. */
function LandingMark({
  landing,
  text,
  width,
}: {
  readonly landing: Landing;
  readonly text: string;
  readonly width: number;
}) {
  const { at, kind } = landing;
  const wide = text.length * 6.6;
  const x = Math.min(width - wide / 2 - 6, Math.max(wide / 2 + 6, at.x));
  return (
    <g aria-live="polite" pointerEvents="none">
      {kind === 'seat' ? (
        <>
          <path d={`M${at.x} ${at.y - 34}V${at.y - 14}`} stroke={ink('pine')} strokeDasharray="2 3" />
          <rect x={at.x - 14} y={at.y - 14} width={28} height={28} rx={6} fill={ink('pineSoft')} stroke={ink('pine')} />
        </>
      ) : (
        <path d={`M${at.x} ${at.y - 12}V${at.y + 34}`} stroke={ink('pine')} strokeWidth={4} strokeLinecap="round" />
      )}
      <rect x={x - wide / 2 - 6} y={at.y + 38} width={wide + 12} height={22} rx={4} fill={ink('pine')} />
      <text x={x} y={at.y + 53} textAnchor="middle" style={{ fontSize: 12.5, fontWeight: 600 }} fill={ink('onPine')}>
        {text}
      </text>
    </g>
  );
}

function seatSentence(name: string, stage: Stage | undefined): string {
  if (!stage) return '';
  return words.seatMoves(name, verbWords[stage.verb].toLowerCase(), stage.order === 'oneByOne', stage.seats.length);
}

/** What a part of the route is called while it is moved. */
function nameOf(route: Series, id: string): string {
  const part = findPart(route, id)?.part;
  if (part?.kind === 'stage') return verbWords[part.verb];
  return part?.kind === 'copies' ? words.copies : words.aBranch;
}

function partSentence(name: string, slot: LineSlot | null, route: Series): string {
  return slot ? words.partMoves(name, slotName(slot, route)) : '';
}

/** Where a slot is, in words: behind which stage, or at the beginning. */
function slotName(slot: Pick<LineSlot, 'series' | 'at'>, route: Series): string {
  const series = seriesOf(route, slot.series);
  const before = series?.parts[slot.at - 1];
  if (before && series.id === route.id && slot.at === series.parts.length) return words.atEnd;
  if (!before) return series?.id === route.id ? words.atBeginning : words.atBranchBeginning;
  const last = stagesOf(before).pop();
  if (!last) return words.atBeginning;
  const behind = words.behind(verbWords[last.verb].toLowerCase());
  return series?.id === route.id ? behind : words.inBranch(behind);
}

function seriesOf(part: Route, id: string): Extract<Route, { kind: 'series' }> | null {
  if (part.kind === 'series') {
    if (part.id === id) return part;
    for (const inner of part.parts) {
      const found = seriesOf(inner, id);
      if (found) return found;
    }
  }
  if (part.kind === 'parallel')
    for (const branch of part.branches) {
      const found = seriesOf(branch.route, id);
      if (found) return found;
    }
  return null;
}
