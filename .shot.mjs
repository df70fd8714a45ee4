import { chromium } from '@playwright/test';
const [, , out, script, w = '1280', h = '800', theme = 'light', path = '/'] = process.argv;
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--autoplay-policy=no-user-gesture-required',
  ],
});
const page = await browser.newPage({ viewport: { width: +w, height: +h }, colorScheme: theme });
page.on('console', (m) => {
  if (m.type() === 'error' || m.type() === 'warning') console.log('console', m.type(), m.text().slice(0, 400));
});
page.on('pageerror', (e) => console.log('pageerror', e.message));
page.on('response', (r) => {
  if (r.status() >= 400) console.log(r.status(), r.url());
});
await page.goto('http://localhost:4870' + path);
await page.waitForTimeout(2500);
if (script) await new Function('page', 'return (async()=>{' + script + '})()')(page);
await page.screenshot({ path: out });
await browser.close();
