import { moreThan } from '@/core/counts';

/** Words as the beginning of a sentence. */
export function begun(text: string): string {
  return `${text.slice(0, 1).toUpperCase()}${text.slice(1)}`;
}

/** How many there are, as lists count: "one", "12", "more than 1,000". */
export function counted(n: number): string {
  if (n > moreThan) return `more than ${moreThan.toLocaleString('en')}`;
  return n === 1 ? 'one' : n.toLocaleString('en');
}
