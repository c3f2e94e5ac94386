'use client';

import { Box, chakra, Field } from '@chakra-ui/react';
import { type ComponentProps, type ReactNode, useId } from 'react';
import type { Refusal } from '../data/client';
import { look } from '../theme/look';

/** How every field looks. */
const fieldLook = {
  bg: 'surface',
  border: '1px solid',
  borderColor: 'edge',
  borderRadius: '6px',
  px: '10px',
  minH: '36px',
  w: '100%',
  color: 'ink',
  _placeholder: { color: 'quiet' },
  _invalid: { borderColor: 'oxblood' },
} as const;

/** A labelled field, with the help or the fault under it. */
export function FormField({
  label,
  help,
  fault,
  children,
}: {
  readonly label: string;
  readonly help?: string | undefined;
  readonly fault?: string | null;
  readonly children: (props: {
    id: string;
    'aria-describedby': string | undefined;
    'aria-invalid': boolean | undefined;
  }) => ReactNode;
}) {
  const id = useId();
  const note = fault ?? help;
  return (
    <Field.Root invalid={Boolean(fault)} mb="14px" gap="4px" alignItems="stretch">
      <Field.Label htmlFor={id} fontSize="13px" fontWeight={400} color="quiet">
        {label}
      </Field.Label>
      {children({ id, 'aria-describedby': note ? `${id}-note` : undefined, 'aria-invalid': fault ? true : undefined })}
      {note && (
        <Box id={`${id}-note`} fontSize="13px" color={fault ? 'oxblood' : 'quiet'}>
          {note}
        </Box>
      )}
    </Field.Root>
  );
}

export function TextInput(props: ComponentProps<typeof chakra.input>) {
  return <chakra.input dir="auto" {...fieldLook} {...props} />;
}

export function TextArea(props: ComponentProps<typeof chakra.textarea>) {
  return <chakra.textarea dir="auto" {...fieldLook} py="8px" rows={3} resize="vertical" {...props} />;
}

export function Choose(props: ComponentProps<typeof chakra.select>) {
  return <chakra.select {...fieldLook} pr="26px" {...props} />;
}

interface Labelled {
  readonly label: string;
  readonly help?: string | undefined;
  readonly fault?: string | null;
}

/** A labelled line to type on. */
export function TextField({ label, help, fault = null, ...input }: Labelled & ComponentProps<typeof chakra.input>) {
  return (
    <FormField label={label} help={help} fault={fault}>
      {(props) => <TextInput {...props} {...input} />}
    </FormField>
  );
}

/** A labelled field for several lines. */
export function AreaField({ label, help, fault = null, ...area }: Labelled & ComponentProps<typeof chakra.textarea>) {
  return (
    <FormField label={label} help={help} fault={fault}>
      {(props) => <TextArea {...props} {...area} />}
    </FormField>
  );
}

/** A labelled choice; its options stand in it. */
export function ChoiceField({ label, help, fault = null, ...choice }: Labelled & ComponentProps<typeof chakra.select>) {
  return (
    <FormField label={label} help={help} fault={fault}>
      {(props) => <Choose {...props} {...choice} />}
    </FormField>
  );
}

/** A labelled choice of one among what is called by words of its own. */
export function WordedChoice<K extends string>({
  label,
  of,
  words,
  value,
  onValue,
}: {
  readonly label: string;
  readonly of: readonly K[];
  readonly words: Readonly<Record<K, string>>;
  readonly value: K;
  readonly onValue: (value: K) => void;
}) {
  return (
    <ChoiceField label={label} value={value} onChange={(event) => onValue(event.target.value as K)}>
      {of.map((key) => (
        <option key={key} value={key}>
          {words[key]}
        </option>
      ))}
    </ChoiceField>
  );
}

/** A labelled choice of one among things by name, or of none of them. */
export function NamedChoice({
  label,
  none,
  of,
  value,
  onValue,
}: {
  readonly label: string;
  /** What choosing none is called. */
  readonly none: string;
  readonly of: readonly { readonly id: string; readonly name: string }[];
  readonly value: string | null;
  readonly onValue: (value: string | null) => void;
}) {
  return (
    <ChoiceField label={label} value={value ?? ''} onChange={(event) => onValue(event.target.value || null)}>
      <option value="">{none}</option>
      {of.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </ChoiceField>
  );
}

/** A box to tick, with what it says; or called by its place in a table, where its row and column say it. */
export function Tick({
  checked,
  onChecked,
  disabled = false,
  called,
  children,
}: {
  readonly checked: boolean;
  readonly onChecked: (checked: boolean) => void;
  readonly disabled?: boolean;
  readonly called?: string;
  readonly children?: ReactNode;
}) {
  return (
    <label className={look('tick')}>
      <input
        type="checkbox"
        aria-label={called}
        checked={checked}
        disabled={disabled}
        onChange={(event) => onChecked(event.target.checked)}
      />
      {children && <span>{children}</span>}
    </label>
  );
}

/** Where a reason or a word to somebody is typed; the label stands in it until then. */
export function WordsField({
  label,
  text,
  onText,
  ...props
}: Omit<ComponentProps<typeof chakra.textarea>, 'value' | 'onChange'> & {
  readonly label: string;
  readonly text: string;
  readonly onText: (text: string) => void;
}) {
  return (
    <TextArea
      aria-label={label}
      placeholder={label}
      rows={2}
      maxLength={4000}
      {...props}
      value={text}
      onChange={(event) => onText(event.target.value)}
    />
  );
}

/** What went wrong, where it went wrong; what was entered stays. */
/** The sentence of a refusal that is about one field of a form; the server says about which. */
export function faultIn(error: Refusal | null, key: string): string | null {
  return error && error.facts.field === key ? error.message : null;
}

/** A refusal that none of the fields of a form shows, so that it is said beside them. */
export function faultBeside(error: Refusal | null, keys: readonly string[]): Refusal | null {
  return keys.some((key) => faultIn(error, key) !== null) ? null : error;
}

export function Fault({ error }: { readonly error: Pick<Refusal, 'message'> | null | undefined }) {
  if (!error) return null;
  return (
    <Box
      role="alert"
      bg="oxbloodSoft"
      color="ink"
      borderLeft="3px solid"
      borderColor="oxblood"
      borderRadius="4px"
      px="12px"
      py="8px"
      my="10px"
    >
      {error.message}
    </Box>
  );
}
