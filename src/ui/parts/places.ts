import { partWords as words } from './words';

/** The pages of the top bar. */
export const places = [
  ['/desk', words.pages.desk],
  ['/circulations', words.pages.circulations],
  ['/register', words.pages.register],
] as const;
