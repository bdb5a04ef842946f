/*
 * Takes pictures of a running installation: node scripts/shoot.mjs NAME PATH [theme] [width] [height] [as] [script]
 * Pictures go to shots/, which is not committed; docs/screenshots/ holds the ones that are.
 */
import { mkdirSync } from 'node:fs';
import { chromium } from '@playwright/test';
import { chromiumLaunch } from './browser.mjs';

const [
  name = 'shot',
  place = '/',
  theme = 'day',
  width = '1280',
  height = '800',
  as = 'analyst',
  script = '',
] = process.argv.slice(2);
const base = process.env.SLATE_URL ?? 'http://127.0.0.1:4600';
const browser = await chromium.launch(chromiumLaunch);
const page = await (
  await browser.newContext({ viewport: { width: Number(width), height: Number(height) }, baseURL: base })
).newPage();
page.on('pageerror', (error) => console.log('page error:', error.message));
page.on('console', (message) => message.type() === 'error' && console.log('console:', message.text()));
// As the product writes it: base64 of JSON.
await page.context().addCookies([{ name: 'slate_theme', value: btoa(JSON.stringify(theme)), url: base }]);
await page.goto('/sign-in');
if (as !== 'nobody') {
  await page.getByLabel('E-mail address').fill(`${as}@skerry.example`);
  await page.getByLabel('Password').fill('low-water-0640');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
  await page.goto(place);
}
await page.waitForLoadState('networkidle');
if (script) await new Function('page', `return (async () => { ${script} })()`)(page);
await page.waitForTimeout(600);
const folder = name.includes('/') ? '.' : 'shots';
mkdirSync(folder, { recursive: true });
await page.screenshot({ path: name.includes('/') ? name : `shots/${name}.png` });
await browser.close();
