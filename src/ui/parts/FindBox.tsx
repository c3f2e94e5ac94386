'use client';

import { type ComponentType, useEffect, useState } from 'react';
import { look } from '../theme/look';
import { finderLine } from './finderLine';

interface Typing {
  readonly text: string;
  readonly onText: (text: string) => void;
}

/**
 * The one box that finds and does everything: a line to write on in the top bar, whose findings unfold beneath it. What
 * unfolds comes when somebody turns to the line, or soon after the page; what is typed meanwhile stays.
 */
export function FindBox() {
  const [text, setText] = useState('');
  const [here, setHere] = useState(false);
  const [Finding, setFinding] = useState<ComponentType<Typing> | null>(null);
  useEffect(() => {
    const load = () => void import('./Finding').then((module) => setFinding(() => module.Finding));
    if (here) return load();
    const soon = setTimeout(load, 1500);
    const onKey = (event: globalThis.KeyboardEvent) => {
      if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      document.querySelector<HTMLInputElement>('[data-finder]')?.focus();
    };
    window.addEventListener('keydown', onKey);
    return () => {
      clearTimeout(soon);
      window.removeEventListener('keydown', onKey);
    };
  }, [here]);
  return (
    <div className={look('finder')}>
      {here && Finding ? (
        <Finding text={text} onText={setText} />
      ) : (
        <input
          type="text"
          role="combobox"
          aria-expanded={false}
          aria-controls="found"
          {...finderLine}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onFocus={() => setHere(true)}
        />
      )}
    </div>
  );
}
