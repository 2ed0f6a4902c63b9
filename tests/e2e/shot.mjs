import { chromium } from '@playwright/test';
const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox','--disable-gpu','--disable-quic','--no-first-run','--disable-background-networking','--disable-component-update','--disable-sync'] });
const p = await b.newPage({ viewport: { width: 1280, height: 800 } });
for (const a of process.argv.slice(2)) { const [path, name] = a.split('='); await p.goto('http://localhost:5102' + path); await p.waitForTimeout(2500); await p.screenshot({ path: `/tmp/w/shot-${name}.png` }); }
await b.close();
