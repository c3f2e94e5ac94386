import { chromium } from '@playwright/test';

// usage: node zshot.mjs person steps...   steps: go:/path  w800x600 dark  click:text  fill:sel=text  key:X  shot:name
const [person, ...steps] = process.argv.slice(2);
const b = await chromium.launch({ executablePath: '/usr/bin/chromium-headless-shell' });
const c = await b.newContext({
  viewport: { width: 1280, height: 800 },
  baseURL: 'http://localhost:3000',
  timezoneId: 'Europe/Oslo',
});
c.setDefaultTimeout(20000);
if (person !== '-') {
  const r = await c.request.post('/do/auth.enterAs', {
    data: { person, commandId: crypto.randomUUID() },
    headers: { origin: 'http://localhost:3000' },
  });
  if (!r.ok()) console.log('enter', r.status(), await r.text());
}
const p = await c.newPage();
p.on('console', (m) => m.type() === 'error' && console.log('console', m.text()));
p.on('pageerror', (m) => console.log('pageerror', m.message));
for (const s of steps) {
  const i = s.indexOf(':');
  const k = i < 0 ? s : s.slice(0, i);
  const v = i < 0 ? '' : s.slice(i + 1);
  try {
    if (k === 'go') {
      await p.goto(v);
      await p.waitForFunction(() => !document.querySelector('#page') || document.documentElement.dataset.alive);
      await p.waitForTimeout(600);
    } else if (k === 'size') {
      const [w, h] = v.split('x').map(Number);
      await p.setViewportSize({ width: w, height: h });
    } else if (k === 'dark') {
      await p.emulateMedia({ colorScheme: 'dark' });
      await c.addCookies([{ name: 'avenda_mode', value: 'dark', url: 'http://localhost:3000' }]);
    } else if (k === 'click') {
      await p.locator(v).first().click();
      await p.waitForTimeout(500);
    } else if (k === 'text') {
      await p.getByText(v).first().click();
      await p.waitForTimeout(500);
    } else if (k === 'btn') {
      await p.getByRole('button', { name: v }).first().click();
      await p.waitForTimeout(500);
    } else if (k === 'key') {
      await p.keyboard.press(v);
      await p.waitForTimeout(400);
    } else if (k === 'type') {
      await p.keyboard.type(v);
      await p.waitForTimeout(600);
    } else if (k === 'html') console.log(await p.locator(v).first().innerHTML());
    else if (k === 'url') console.log(p.url());
    else if (k === 'text?')
      console.log(
        await p
          .locator(v || 'main')
          .first()
          .innerText(),
      );
    else if (k === 'wait') await p.waitForTimeout(Number(v));
    else if (k === 'shot') {
      await p.screenshot({ path: `/tmp/shots/${v}.png` });
    }
  } catch (e) {
    console.log('FAIL', s, e.message.split('\n')[0]);
  }
}
await b.close();
