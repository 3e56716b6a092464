import { texturedPhoto } from '../src/core/testing/pictures';
import { BenchPage, pixelOf } from './bench-page';
import { expect, test } from './journey';
import { pngFile } from './photos';

const photo = texturedPhoto(900, 600, 5);

test('the wheel zooms at the pointer: what lies under it stays there', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('a.png', photo));
  const under = () =>
    page.evaluate(() => {
      const { camera } = window.bench!.view!;
      const box = document.querySelector('canvas')!.getBoundingClientRect();
      return [
        camera.x + (500 - box.left - box.width / 2) / camera.zoom,
        camera.y + (300 - box.top - box.height / 2) / camera.zoom,
      ];
    });
  await page.mouse.move(500, 300);
  const before = await under();
  for (let i = 0; i < 6; i++) await page.mouse.wheel(0, -240);
  const after = await under();
  expect(Math.hypot(after[0] - before[0], after[1] - before[1])).toBeLessThan(0.01);
  expect(await page.evaluate(() => window.bench!.view!.camera.zoom)).toBeGreaterThan(2);
});

test('keys zoom in and out, to fit and 1:1, up to 32:1 with crisp pixels', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('a.png', photo));
  const zoom = page.getByLabel('Zoom', { exact: true });
  await page.locator('canvas').first().focus();
  await bench.press('Control+1');
  await expect(zoom).toHaveText('100 %');
  await bench.press('+');
  await expect(zoom).toHaveText('150 %');
  await bench.press('-', '-');
  await expect(zoom).toHaveText('67 %');
  for (let i = 0; i < 14; i++) await bench.press('+');
  await expect(zoom).toHaveText('3200 %');
  await bench.settled();
  for (const [x, y] of [
    [450, 300],
    [451, 300],
    [449, 301],
  ])
    for (const part of [0.15, 0.85])
      expect(await bench.shown(x + part, y + part)).toEqual(pixelOf(photo, x, y));
  await page.getByRole('button', { name: 'Fit' }).click();
  await expect(zoom).toHaveText(/^8\d %$/);
});

test('space and drag pans, the middle button too; neither draws', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('a.png', photo));
  await bench.press('q', 'Control+1');
  const from = await bench.at(450, 300);
  await page.mouse.move(...from);
  await page.keyboard.down('Space');
  await page.mouse.down();
  await page.mouse.move(from[0] + 120, from[1] - 60, { steps: 5 });
  await page.mouse.up();
  await page.keyboard.up('Space');
  const moved = await bench.at(450, 300);
  expect([Math.round(moved[0] - from[0]), Math.round(moved[1] - from[1])]).toEqual([120, -60]);
  await page.mouse.down({ button: 'middle' });
  await page.mouse.move(from[0], from[1], { steps: 5 });
  await page.mouse.up({ button: 'middle' });
  expect((await bench.at(450, 300))[0]).toBeCloseTo(from[0], 0);
  expect(await page.evaluate(() => window.bench!.state.mark)).toBe(null);
});

test('two fingers pan and zoom', async ({ browser }) => {
  const context = await browser.newContext({ hasTouch: true, viewport: { width: 1024, height: 768 } });
  const page = await context.newPage();
  const bench = new BenchPage(page);
  await bench.take(pngFile('a.png', photo));
  const before = await page.evaluate(() => window.bench!.view!.camera.zoom);
  const session = await context.newCDPSession(page);
  const [cx, cy] = await bench.at(450, 300);
  const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', apart: number) =>
    session.send('Input.dispatchTouchEvent', {
      type,
      touchPoints:
        type === 'touchEnd'
          ? []
          : [
              { x: cx - apart, y: cy, id: 1 },
              { x: cx + apart, y: cy, id: 2 },
            ],
    });
  await touch('touchStart', 40);
  for (let k = 1; k <= 8; k++) await touch('touchMove', 40 + 10 * k);
  await touch('touchEnd', 0);
  const after = await page.evaluate(() => window.bench!.view!.camera.zoom);
  expect(after / before).toBeGreaterThan(2.3);
  expect(after / before).toBeLessThan(3.7);
  expect(await page.evaluate(() => window.bench!.state.mark)).toBe(null);
  await context.close();
});

test('on a phone the panels are sheets and the photo can still be mended', async ({ browser }) => {
  const context = await browser.newContext({ viewport: { width: 390, height: 780 } });
  const page = await context.newPage();
  const bench = new BenchPage(page);
  await bench.take(pngFile('a.png', photo));
  await page.getByRole('button', { name: /^Box/ }).click();
  await bench.drag([
    [300, 200],
    [360, 250],
  ]);
  await page.getByRole('button', { name: /^Heal/ }).click();
  await bench.settled();
  await page.getByRole('button', { name: 'Mends', exact: true }).click();
  await expect(page.getByRole('dialog').getByRole('listitem')).toHaveCount(1);
  await context.close();
});
