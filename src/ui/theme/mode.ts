/** Light or dark: what the person chose in this browser, else what the machine prefers. */
const modeKey = 'avenda.mode';

/** Runs before the first paint, so that a dark page never flashes light. */
export const modeScript = `(()=>{let m=null;try{m=localStorage.getItem('${modeKey}')}catch{}const d=m?m==='dark':matchMedia('(prefers-color-scheme: dark)').matches;document.documentElement.classList.add(d?'dark':'light');document.documentElement.style.colorScheme=d?'dark':'light'})()`;

export function currentMode(): 'light' | 'dark' {
  return document.documentElement.classList.contains('dark') ? 'dark' : 'light';
}

export function setMode(mode: 'light' | 'dark'): void {
  document.documentElement.classList.remove('light', 'dark');
  document.documentElement.classList.add(mode);
  document.documentElement.style.colorScheme = mode;
  try {
    localStorage.setItem(modeKey, mode);
  } catch {
    // A browser that keeps nothing still shows what was chosen.
  }
}
