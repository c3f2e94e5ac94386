'use client';

import { Box, Flex } from '@chakra-ui/react';
import { atInstant, instantOf, type Rule, type Seat, type Stage, type Verb, verbs } from '@/core/route/route';
import { usePeople } from '../data/use';
import { verbWords } from '../line/words';
import { SideButton, WordButton } from '../parts/buttons';
import { Choose, FormField, TextInput, Tick } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { PeoplePicker } from '../parts/PeoplePicker';
import { Leaf, PersonName } from '../parts/parts';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** A stage opened under the line: its people, what they do, by which rule and until when. */
export function StageLeaf({
  stage,
  n,
  author,
  last,
  onChange,
  onMove,
  onRemove,
  onAdd,
}: {
  readonly stage: Stage;
  readonly n: number;
  readonly author: string;
  readonly last: boolean;
  readonly onChange: (update: (stage: Stage) => Stage) => void;
  readonly onMove: (by: -1 | 1) => void;
  readonly onRemove: () => void;
  readonly onAdd: () => void;
}) {
  const { name } = usePeople();
  const set = (part: Partial<Stage>) => onChange((before) => ({ ...before, ...part }));
  const moveSeat = (at: number, by: -1 | 1) => {
    const seats = stage.seats.slice();
    const [moved] = seats.splice(at, 1);
    if (moved) seats.splice(at + by, 0, moved);
    set({ seats });
  };
  const setSeats = (seats: readonly Seat[]) =>
    set({ seats, rule: stage.rule.kind === 'atLeast' && stage.rule.k > seats.length ? { kind: 'all' } : stage.rule });
  return (
    <Leaf label={words.stageOf(verbWords[stage.verb], n)} tone={stage.verb === 'sign' ? 'iris' : 'pine'}>
      <Flex gap="28px" flexWrap="wrap" align="flex-start">
        <Box flex="1.2" minW="300px">
          <Box fontSize="13px" color="quiet" mb="4px">
            {words.people}
          </Box>
          {stage.seats.map((seat, i) => (
            <Flex key={seat.id} align="center" gap="8px" py="3px">
              <Box flex="1" minW={0}>
                <PersonName id={seat.assignment.person} />
              </Box>
              <SideButton
                minH="28px"
                px="8px"
                disabled={i === 0}
                aria-label={words.personEarlier(name(seat.assignment.person))}
                onClick={() => moveSeat(i, -1)}
              >
                ↑
              </SideButton>
              <SideButton
                minH="28px"
                px="8px"
                disabled={i === stage.seats.length - 1}
                aria-label={words.personLater(name(seat.assignment.person))}
                onClick={() => moveSeat(i, 1)}
              >
                ↓
              </SideButton>
              <WordButton
                aria-label={`${words.remove}: ${name(seat.assignment.person)}`}
                onClick={() => setSeats(stage.seats.filter((other) => other !== seat))}
              >
                {words.remove}
              </WordButton>
            </Flex>
          ))}
          <PeoplePicker
            label={words.addPerson}
            exclude={[
              ...stage.seats.map((seat) => seat.assignment.person),
              ...(stage.verb === 'approve' ? [author] : []),
            ]}
            onPick={(assignment) => setSeats([...stage.seats, { id: crypto.randomUUID(), assignment, files: 'all' }])}
          />
        </Box>
        <Box flex="1" minW="260px">
          <Flex gap="14px">
            <Box flex="1">
              <FormField label={words.verb}>
                {(props) => (
                  <Choose {...props} value={stage.verb} onChange={(event) => set({ verb: event.target.value as Verb })}>
                    {verbs.map((verb) => (
                      <option key={verb} value={verb}>
                        {verbWords[verb]}
                      </option>
                    ))}
                  </Choose>
                )}
              </FormField>
            </Box>
            <Box flex="1">
              <FormField label={words.order}>
                {(props) => (
                  <Choose
                    {...props}
                    value={stage.order}
                    onChange={(event) => set({ order: event.target.value as Stage['order'] })}
                  >
                    <option value="together">{words.together}</option>
                    <option value="oneByOne">{words.oneByOne}</option>
                  </Choose>
                )}
              </FormField>
            </Box>
          </Flex>
          <Flex gap="14px">
            <Box flex="1">
              <FormField label={words.rule}>
                {(props) => (
                  <Choose
                    {...props}
                    value={stage.rule.kind}
                    onChange={(event) => set({ rule: ruleOf(event.target.value, stage.seats.length) })}
                  >
                    <option value="all">{words.all}</option>
                    <option value="any">{words.any}</option>
                    <option value="atLeast">{words.atLeast}</option>
                  </Choose>
                )}
              </FormField>
            </Box>
            {stage.rule.kind === 'atLeast' && (
              <Box w="90px">
                <FormField label={words.atLeastN}>
                  {(props) => (
                    <TextInput
                      {...props}
                      type="number"
                      min={1}
                      max={Math.max(1, stage.seats.length)}
                      value={stage.rule.kind === 'atLeast' ? stage.rule.k : 1}
                      onChange={(event) =>
                        set({
                          rule: {
                            kind: 'atLeast',
                            k: Math.max(1, Math.min(stage.seats.length, Number(event.target.value) || 1)),
                          },
                        })
                      }
                    />
                  )}
                </FormField>
              </Box>
            )}
            <Box flex="1">
              <FormField label={words.onDecline}>
                {(props) => (
                  <Choose
                    {...props}
                    value={stage.onDecline}
                    onChange={(event) => set({ onDecline: event.target.value as Stage['onDecline'] })}
                  >
                    <option value="stop">{words.stop}</option>
                    <option value="count">{words.count}</option>
                  </Choose>
                )}
              </FormField>
            </Box>
          </Flex>
        </Box>
        <Box flex="1" minW="230px">
          <FormField label={words.due}>
            {(props) => (
              <MomentInput {...props} value={instantOf(stage.due)} onChange={(due) => set({ due: atInstant(due) })} />
            )}
          </FormField>
          <FormField label={words.closes}>
            {(props) => (
              <MomentInput
                {...props}
                value={instantOf(stage.closes)}
                onChange={(closes) => set({ closes: atInstant(closes) })}
              />
            )}
          </FormField>
          <Tick checked={stage.delegate} onChecked={(delegate) => set({ delegate })}>
            {words.delegate}
          </Tick>
        </Box>
      </Flex>
      <Flex gap="8px" mt="14px" pt="12px" borderTop="1px solid" borderColor="hairline" flexWrap="wrap">
        <SideButton disabled={n === 1} onClick={() => onMove(-1)}>
          ← {words.earlier}
        </SideButton>
        <SideButton disabled={last} onClick={() => onMove(1)}>
          {words.later} →
        </SideButton>
        <WordButton ml="8px" onClick={onRemove}>
          {words.removeStage}
        </WordButton>
        <Box flex="1" />
        <SideButton onClick={onAdd}>{words.addAfter(verbWords[stage.verb])}</SideButton>
      </Flex>
    </Leaf>
  );
}

function ruleOf(kind: string, n: number): Rule {
  if (kind === 'any') return { kind: 'any' };
  return kind === 'atLeast' ? { kind: 'atLeast', k: Math.max(1, Math.ceil(n / 2)) } : { kind: 'all' };
}
