/**
 * Runs in the HTML, before anything else has come: keeps the last press on a button of a page that is not alive yet, so that
 * it is not a press on nothing.
 */
export const pressScript =
  "addEventListener('click',e=>{if(!document.documentElement.dataset.alive)window.pressedEarly=e.target.closest('button')},true)";

/** Says that the page is alive, and lets happen what was pressed before. */
export function comeAlive(): void {
  if (document.documentElement.dataset.alive) return;
  document.documentElement.dataset.alive = 'yes';
  const { pressedEarly } = window as { pressedEarly?: HTMLButtonElement | null };
  if (pressedEarly?.isConnected) pressedEarly.click();
}
