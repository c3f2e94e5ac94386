'use client';

import { useId } from 'react';
import { look } from '../theme/look';

/** A few names in a row of which one is chosen: which list one looks at, or which document of several. */
export function ChoiceRow<K extends string>({
  label,
  choices,
  chosen,
  onChoose,
}: {
  readonly label: string;
  readonly choices: readonly { readonly key: K; readonly name: string; readonly disabled?: boolean }[];
  readonly chosen: K;
  readonly onChoose: (key: K) => void;
}) {
  const group = useId();
  return (
    <div role="radiogroup" aria-label={label} className={look('choices')}>
      {choices.map(({ key, name, disabled }) => (
        <label key={key} className={look('choice')}>
          <input
            type="radio"
            name={group}
            className={look('unseen')}
            checked={chosen === key}
            disabled={disabled}
            onChange={() => onChoose(key)}
          />
          <span>{name}</span>
        </label>
      ))}
    </div>
  );
}
