import { describe, expect, it } from 'vitest';
import { pressBounds, pressOf } from './press';

const at = (text: string) => Date.parse(text);

describe('a due time presses', () => {
  it('by the day and the week of whoever reads it, up to the instant at which their next one begins', () => {
    // Wednesday evening in Oslo, Wednesday noon in St. John's.
    const now = at('2026-12-02T17:30:00Z');
    const oslo = pressBounds('Europe/Oslo', now);
    expect(pressOf(null, oslo)).toBe('none');
    expect(pressOf(now - 1, oslo)).toBe('late');
    expect(pressOf(now, oslo)).toBe('today');
    expect(pressOf(at('2026-12-02T22:59:59.999Z'), oslo)).toBe('today');
    expect(pressOf(at('2026-12-02T23:00:00Z'), oslo)).toBe('week');
    expect(pressOf(at('2026-12-02T23:00:00Z'), pressBounds('America/St_Johns', now))).toBe('today');
    expect(pressOf(at('2026-12-06T22:59:59Z'), oslo)).toBe('week');
    expect(pressOf(at('2026-12-06T23:00:00Z'), oslo)).toBe('later');
    // Less than a day ahead is tomorrow all the same.
    expect(pressOf(now + 23 * 3_600_000, oslo)).toBe('week');
  });

  it('from a Sunday on by the week that begins tomorrow, also where the clock changes', () => {
    const sunday = pressBounds('Europe/Oslo', at('2026-10-25T00:30:00Z'));
    expect(sunday.day).toBe(at('2026-10-25T23:00:00Z'));
    expect(sunday.week).toBe(sunday.day);
  });
});
