/** Takes the pictures in docs/screenshots from the demo data, in the built application: `npm run pictures`. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';

const root = join(import.meta.dirname, '..');
const port = 4344;
const server = spawn(process.execPath, ['node_modules/next/dist/bin/next', 'start', '--port', String(port)], {
  cwd: root,
  stdio: 'ignore',
});
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});

async function settled(page: Page): Promise<void> {
  await page.waitForFunction(() => window.bench?.isOpen && window.bench.view?.settled && !window.bench.busy);
  await page.waitForTimeout(900);
}

try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const take = (name: string) => page.screenshot({ path: join(root, 'docs', 'screenshots', `${name}.png`) });
  for (let i = 0; i < 100; i++) {
    if (
      await fetch(`http://localhost:${port}/api/health`).then(
        (r) => r.ok,
        () => false,
      )
    )
      break;
    await page.waitForTimeout(100);
  }
  await page.goto(`http://localhost:${port}/`);
  await page.getByRole('button', { name: /Courtyard/ }).click();
  await page.waitForURL(/\/job\//);
  await settled(page);
  await page.getByRole('button', { name: /^Choose Crates/ }).click();
  await page.getByRole('button', { name: /^Choose Crates/ }).dblclick();
  await settled(page);
  await page.mouse.move(640, 4);
  await take('bench');
  await page.locator('canvas').focus();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+0');
  await page.keyboard.press(',');
  const divider = (await page.getByRole('slider', { name: /Divider/ }).boundingBox())!;
  await page.mouse.move(divider.x + 12, 300);
  await page.mouse.down();
  await page.mouse.move(divider.x + 112, 300, { steps: 4 });
  await page.mouse.up();
  await settled(page);
  await take('wipe');
  await page.keyboard.press(',');
  await page.getByRole('button', { name: 'Export' }).click();
  await page.waitForTimeout(400);
  await take('export');
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Shelf' }).click();
  await page.getByRole('button', { name: /Press house/ }).click();
  await page.waitForURL(/\/job\//);
  await settled(page);
  await page.getByRole('button', { name: /^Choose Cable/ }).click();
  await settled(page);
  await page.mouse.move(640, 4);
  await take('steer');
  await page.getByRole('button', { name: /^Choose Sign/ }).click();
  await page.locator('canvas').focus();
  await page.keyboard.press('t');
  await page.waitForFunction(
    () => {
      const candidates = window.bench?.state.tryouts?.candidates ?? [];
      return candidates.length > 5 && candidates.every((c) => c.state === 'ready');
    },
    null,
    { timeout: 180_000 },
  );
  await page.waitForTimeout(2500);
  await take('tryouts');
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Shelf' }).click();
  await page.waitForTimeout(2500);
  await take('shelf');
} finally {
  await browser.close();
  server.kill();
}
