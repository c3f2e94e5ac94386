'use client';

import { useEffect } from 'react';
import { otherScripts } from './system';

/** A letter that our own hands do not have. */
const beyond = /[^\s!-\u017F\u1E00-\u1EFF\u2010-\u218F\u2300-\u2E7F]/u;

/** Brings the fonts for other scripts when the first of their letters comes onto a page. */
export function Letters() {
  useEffect(() => {
    let observer: MutationObserver | null = null;
    const look = (text: string | null) => {
      if (!text || !beyond.test(text)) return false;
      observer?.disconnect();
      void import('./letters').then(() => document.documentElement.classList.add(otherScripts));
      return true;
    };
    const typed = (event: Event) => {
      const { value } = event.target as HTMLInputElement;
      if (typeof value === 'string' && look(value)) document.removeEventListener('input', typed);
    };
    if (look(document.body.textContent)) return;
    observer = new MutationObserver((changes) => {
      for (const { target, addedNodes } of changes) {
        if (target.nodeType === Node.TEXT_NODE && look(target.textContent)) return;
        for (const node of addedNodes) if (look(node.textContent)) return;
      }
    });
    observer.observe(document.body, { childList: true, subtree: true, characterData: true });
    document.addEventListener('input', typed);
    return () => {
      observer?.disconnect();
      document.removeEventListener('input', typed);
    };
  }, []);
  return null;
}
