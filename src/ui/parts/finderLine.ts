import { look } from '../theme/look';
import { partWords as words } from './words';

/** How the line to write on is called and looks, empty and in use. */
export const finderLine = {
  'data-finder': true,
  'aria-label': words.findLabel,
  'aria-keyshortcuts': 'Control+K Meta+K',
  placeholder: words.findLabel,
  className: look('finderLine'),
} as const;
