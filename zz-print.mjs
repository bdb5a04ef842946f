import { chromium } from '@playwright/test';
import { chromiumLaunch } from './scripts/browser.mjs';
const b = await chromium.launch(chromiumLaunch);
for (const [who, place, theme, name] of [['reader', '/desk/skerry-sound/route-punctuality', 'day', 'p-rp'], ['reader', '/desk/skerry-sound/morning-brief', 'night', 'p-mb'], ['reader', '/desk/skerry-sound/vessel-upkeep', 'day', 'p-vu']]) {
const c = await b.newContext({ viewport: { width: 1280, height: 800 }, baseURL: 'http://127.0.0.1:4600' });
await c.addCookies([{ name: 'slate_theme', value: btoa(JSON.stringify(theme)), url: 'http://127.0.0.1:4600' }]);
const p = await c.newPage();
p.on('pageerror', (e) => console.log('page error', e.message));
await p.goto('/sign-in'); await p.getByLabel('E-mail address').fill(who + '@skerry.example'); await p.getByLabel('Password').fill('low-water-0640'); await p.getByRole('button', { name: 'Sign in' }).click(); await p.waitForURL((u) => !u.pathname.startsWith('/sign-in'));
await p.goto(place); await p.waitForLoadState('networkidle'); await p.waitForTimeout(1500);
await p.pdf({ path: `shots/${name}.pdf`, preferCSSPageSize: true, printBackground: false });
const z = await p.evaluate(() => [getComputedStyle(document.documentElement).getPropertyValue('--print-zoom'), getComputedStyle(document.documentElement).getPropertyValue('--print-width')]);
console.log(name, z);
// As a picture, at the width of the paper.
await p.evaluate(() => window.dispatchEvent(new Event('beforeprint')));
await p.emulateMedia({ media: 'print' });
await p.setViewportSize({ width: 1032, height: 730 });
await p.screenshot({ path: `shots/${name}.png`, fullPage: true });
await c.close();
}
await b.close();
