import AxeBuilder from '@axe-core/playwright';
import { paintPhoto } from '../src/core/testing/pictures';
import { BenchPage } from './bench-page';
import { expect, test } from './journey';
import { avifFile, halvesPhoto, jpegFile, pngFile, spottedPhoto, webpFile } from './photos';

test('the server is well, isolates its pages and lets nothing foreign in', async ({ page, request }) => {
  expect(await (await request.get('/api/health')).json()).toEqual({ ok: true });
  const foreign: string[] = [];
  page.on('request', (r) => {
    if (!/^(http:\/\/localhost:|blob:|data:)/.test(r.url())) foreign.push(r.url());
  });
  const refused: string[] = [];
  page.on('console', (m) => {
    if (m.type() === 'error') refused.push(m.text());
  });
  const reply = await page.goto('/');
  const policy = reply!.headers()['content-security-policy'];
  expect(policy).toContain("default-src 'self'");
  expect(policy).not.toContain("'unsafe-eval'");
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
  const bench = new BenchPage(page);
  await bench.take(pngFile('a.png', spottedPhoto()));
  expect(foreign).toEqual([]);
  expect(refused).toEqual([]);
});

test('a demo job opens with its mends, and the shelf shows both', async ({ page }) => {
  await page.goto('/');
  const demo = page.getByRole('region', { name: 'Demo jobs' }).getByRole('button').first();
  await expect(demo).toContainText('mends');
  await demo.click();
  await page.waitForURL(/\/job\//);
  const bench = new BenchPage(page);
  await bench.settled();
  expect(await bench.mends().count()).toBeGreaterThanOrEqual(3);
  // What ships was computed from exactly this photo and these mends.
  await page.waitForTimeout(1500);
  await expect(page.getByText(/out of date|not computed|failed/)).toHaveCount(0);
  await page.getByRole('link', { name: 'Shelf' }).click();
  await expect(
    page.getByRole('region', { name: /Jobs/ }).first().getByRole('listitem').first(),
  ).toContainText('mends');
});

test('several photos at once become jobs; they can be renamed, duplicated, deleted and brought back', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('one.png', spottedPhoto()), pngFile('two.png', halvesPhoto(120, 80)));
  const jobs = page.getByRole('region', { name: 'Jobs', exact: false }).first().getByRole('listitem');
  await expect(jobs).toHaveCount(2);
  await expect(jobs.filter({ hasText: 'two' })).toContainText('120 × 80');
  await expect(jobs.filter({ hasText: 'two' })).toContainText('0 mends');
  await page.getByText('two', { exact: true }).dblclick();
  await page.getByLabel('Job name').fill('Gate, spring');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'More for Gate, spring' }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(jobs).toHaveCount(3);
  await page.getByRole('button', { name: 'More for Gate, spring', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(jobs).toHaveCount(2);
  await page.getByRole('button', { name: 'Undo delete' }).click();
  await expect(jobs).toHaveCount(3);
  await page.reload();
  await expect(jobs).toHaveCount(3);
  await expect(page.getByText('Gate, spring', { exact: true })).toBeVisible();
});

test('a file that is no photo is refused with a sentence, and the good one beside it is taken in', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  const empty = { name: 'empty.jpg', mimeType: 'image/jpeg', buffer: Buffer.alloc(0) };
  const text = {
    name: 'letter.png',
    mimeType: 'image/png',
    buffer: Buffer.from('Dear client, the photo follows.'),
  };
  const cut = pngFile('cut.png', spottedPhoto());
  const huge = pngFile('huge.png', halvesPhoto(20, 10));
  huge.buffer.writeUInt32BE(20_000, 16);
  huge.buffer.writeUInt32BE(9_000, 20);
  await bench.take(
    empty,
    text,
    { ...cut, buffer: cut.buffer.subarray(0, 60) },
    huge,
    pngFile('good.png', halvesPhoto(60, 40)),
  );
  await expect(page.getByRole('alert').filter({ hasText: 'empty.jpg' })).toContainText('0 bytes');
  await expect(page.getByRole('alert').filter({ hasText: 'letter.png' })).toContainText(
    'cannot be read as a photo',
  );
  await expect(page.getByRole('alert').filter({ hasText: 'cut.png' })).toContainText(/not opened/);
  await expect(page.getByRole('alert').filter({ hasText: 'huge.png' })).toContainText('16384');
  await expect(
    page.getByRole('region', { name: 'Jobs', exact: false }).first().getByRole('listitem'),
  ).toHaveCount(1);
});

test('EXIF orientation is honoured, and the export has the turned size', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(await jpegFile('turned.jpg', halvesPhoto(96, 64), 6));
  const out = await bench.exportPng();
  expect([out.width, out.height]).toEqual([64, 96]);
  // Turned clockwise, the dark left half is on top.
  expect(out.data[(10 * 64 + 32) * 4]).toBeLessThan(60);
  expect(out.data[(85 * 64 + 32) * 4]).toBeGreaterThan(180);
});

test('WebP and AVIF open as the browser decodes them', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(await webpFile('gate.webp', halvesPhoto(120, 80)));
  const webp = await bench.exportPng();
  expect([webp.width, webp.height]).toEqual([120, 80]);
  expect(webp.data[(40 * 120 + 20) * 4 + 2]).toBeGreaterThan(80);
  await bench.take(avifFile('sky.avif'));
  const avif = await bench.exportPng();
  expect([avif.width, avif.height]).toEqual([300, 200]);
  expect(avif.data[150 * 4]).toBeGreaterThan(200);
  expect(avif.data[(199 * 300 + 150) * 4 + 2]).toBeGreaterThan(200);
});

test('shelf, bench and help have no accessibility violations', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('a.png', spottedPhoto()));
  await bench.press('e');
  await bench.drag([
    [190, 140],
    [250, 200],
  ]);
  await bench.press('2');
  await bench.settled();
  const check = async () =>
    (await new AxeBuilder({ page }).analyze()).violations.map((v) => `${v.id}: ${v.nodes[0].html}`);
  expect(await check()).toEqual([]);
  await page.getByRole('button', { name: 'Export' }).click();
  expect(await check()).toEqual([]);
  await page.getByRole('button', { name: 'Close' }).click();
  await page.locator('canvas').first().focus();
  // The brush's sources and the twin loupe; then a heal's card, with its source and stop lines.
  await bench.press('4', 'q');
  await bench.clickAt(420, 300, 'Alt');
  await bench.moveTo(300, 300);
  await expect(page.getByRole('region', { name: 'Target and source' })).toBeVisible();
  expect(await check()).toEqual([]);
  await bench.drag([
    [300, 300],
    [330, 310],
  ]);
  await bench.settled();
  await bench.press('0');
  await bench.clickAt(315, 305);
  await page.getByRole('button', { name: 'Draw stop line' }).click();
  expect(await check()).toEqual([]);
  await page.goto('/');
  await expect(page.getByRole('region', { name: 'Demo jobs' }).getByRole('button').first()).toBeVisible();
  expect(await check()).toEqual([]);
  await page.goto('/help');
  expect(await check()).toEqual([]);
});

test('a transparent photo shows the surround through it, once', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(
    pngFile(
      'glass.png',
      paintPhoto(640, 480, 8, () => [1, 0, 0, 0.5]),
    ),
  );
  await bench.settled();
  const shown = await page.evaluate(() => {
    const canvas = document.querySelector('canvas')!;
    return [...canvas.getContext('2d')!.getImageData(canvas.width / 2, canvas.height / 2, 1, 1).data];
  });
  // Half red over mid grey.
  const expected = [0.5 * 255 + 0.5 * 140, 0.5 * 140, 0.5 * 140];
  for (const [c, v] of expected.entries()) expect(Math.abs(shown[c] - v)).toBeLessThan(4);
});
