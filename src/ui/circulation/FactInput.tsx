'use client';

import { Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { type FactType, type FactValue, numberText, typedNumber } from '@/core/route/facts';
import { wallClock } from '@/core/time/zone';
import { unreachable } from '@/core/unreachable';
import { useTimes } from '../data/use';
import { DayInput } from '../parts/DayInput';
import { Choose, FormField, TextInput } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { circulationWords } from './words';

const words = circulationWords.plan.facts;

/** A labelled value of a fact; called by its name unless the label says more. */
export function FactField({
  type,
  label = type.name,
  value,
  onChange,
}: {
  readonly type: FactType;
  readonly label?: string;
  readonly value: FactValue | null;
  readonly onChange: (value: FactValue | null) => void;
}) {
  return (
    <FormField label={label}>
      {({ id }) => <FactInput id={id} label={type.name} type={type} value={value} onChange={onChange} />}
    </FormField>
  );
}

/** A value of a fact, typed or chosen by its kind; empty is none. */
export function FactInput({
  type,
  value,
  onChange,
  label,
  id,
  focused = false,
}: {
  readonly type: FactType;
  readonly value: FactValue | null;
  readonly onChange: (value: FactValue | null) => void;
  readonly label: string;
  readonly id?: string | undefined;
  /** Whether one goes on typing in it. */
  readonly focused?: boolean;
}) {
  const { zone, now } = useTimes();
  switch (type.kind) {
    case 'amount':
    case 'number':
      return <NumberInput type={type} value={value} onChange={onChange} label={label} id={id} focused={focused} />;
    case 'choice':
    case 'yesNo': {
      const options = type.kind === 'choice' ? type.choices : [words.yes, words.no];
      const chosen =
        value?.kind === 'choice' ? value.text : value?.kind === 'yesNo' ? (value.yes ? words.yes : words.no) : '';
      return (
        <Choose
          id={id}
          aria-label={label}
          autoFocus={focused}
          value={chosen}
          onChange={(event) => {
            const text = event.target.value;
            if (text === '') onChange(null);
            else
              onChange(type.kind === 'choice' ? { kind: 'choice', text } : { kind: 'yesNo', yes: text === words.yes });
          }}
        >
          <option value="">{words.none}</option>
          {options.map((option) => (
            <option key={option} value={option}>
              {option}
            </option>
          ))}
        </Choose>
      );
    }
    case 'date':
      return (
        <DayInput
          id={id}
          aria-label={label}
          value={value?.kind === 'date' ? value.day : null}
          today={wallClock(zone, now()).slice(0, 10)}
          onChange={(day) => onChange(day === null ? null : { kind: 'date', day })}
        />
      );
    case 'party':
      return (
        <TextInput
          id={id}
          aria-label={label}
          autoFocus={focused}
          maxLength={200}
          value={value?.kind === 'party' ? value.text : ''}
          onChange={(event) => onChange(event.target.value === '' ? null : { kind: 'party', text: event.target.value })}
        />
      );
    case 'person':
      return (
        <OnePerson
          label={label}
          person={value?.kind === 'person' ? value.person : null}
          onPerson={(who) => onChange(who && { kind: 'person', person: who.person })}
        />
      );
    default:
      return unreachable(type.kind, 'value');
  }
}

function NumberInput({
  type,
  value,
  onChange,
  label,
  id,
  focused,
}: {
  readonly type: FactType;
  readonly value: FactValue | null;
  readonly onChange: (value: FactValue | null) => void;
  readonly label: string;
  readonly id?: string | undefined;
  readonly focused: boolean;
}) {
  const given = value?.kind === 'amount' || value?.kind === 'number' ? value.thousandths : null;
  const currency = value?.kind === 'amount' ? value.currency : type.currency;
  const shown = given === null ? '' : numberText(given);
  const [typed, setTyped] = useState(shown);
  useEffect(() => setTyped(shown), [shown]);
  const put = (thousandths: number, unit: string) =>
    onChange(
      type.kind === 'amount' ? { kind: 'amount', thousandths, currency: unit } : { kind: 'number', thousandths },
    );
  const take = () => {
    if (typed.trim() === '') {
      if (given !== null) onChange(null);
      return;
    }
    const found = typedNumber(typed);
    if (found === null) setTyped(shown);
    else if (found !== given) put(found, currency);
  };
  return (
    <Flex gap="6px">
      <TextInput
        id={id}
        aria-label={label}
        inputMode="decimal"
        autoFocus={focused}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          take();
        }}
      />
      {type.kind === 'amount' && (
        <TextInput
          w="66px"
          flex="none"
          aria-label={words.currency(label)}
          maxLength={3}
          value={currency}
          onChange={(event) => given !== null && put(given, event.target.value.toUpperCase())}
        />
      )}
    </Flex>
  );
}
