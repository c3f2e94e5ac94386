type Mode = 'light' | 'dark';

/** The cookie that holds what the person chose in this browser, so that a page comes in it and asks no store before it is drawn. */
export const modeCookie = 'avenda_mode';

/** What a cookie says of the mode; null where nothing was chosen. */
export function chosenMode(cookie: string | undefined): Mode | null {
  return cookie === 'dark' || cookie === 'light' ? cookie : null;
}

/** Where nothing was chosen, what the machine prefers; before the first paint, so that a dark page never flashes light. */
export const modeScript = `(()=>{const m=matchMedia('(prefers-color-scheme: dark)').matches?'dark':'light';const r=document.documentElement;r.classList.add(m);r.style.colorScheme=m})()`;

export function currentMode(): Mode {
  return document.documentElement.classList.contains('dark') ? 'dark' : 'light';
}

export function setMode(mode: Mode): void {
  const { classList, style } = document.documentElement;
  classList.remove('light', 'dark');
  classList.add(mode);
  style.colorScheme = mode;
  // biome-ignore lint/suspicious/noDocumentCookie: the store of cookies that waits for no promise, which all browsers have
  document.cookie = `${modeCookie}=${mode}; path=/; max-age=31536000; samesite=lax`;
}
