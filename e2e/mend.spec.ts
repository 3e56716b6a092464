import { differences } from '../src/core/testing/pictures';
import { BenchPage, pixelOf } from './bench-page';
import { expect, test } from './journey';
import { pngFile, spottedPhoto, white } from './photos';

const photo = spottedPhoto();
const file = () => pngFile('yard.png', photo);

test('clone: set a source, see it in the brush, paint, undo, redo; the pixels are the source’s own', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await bench.press('3', 'q');
  await bench.setNumber('rail', 'Size', 60);
  await bench.setNumber('rail', 'Softness', 0);
  await bench.clickAt(420, 170, 'Alt');
  await bench.moveTo(220, 170);
  await bench.settled();
  // The source shows inside the brush before anything is painted.
  expect((await bench.shown(220, 170)).every((v) => v > 250)).toBe(false);
  await bench.drag(
    [
      [205, 155],
      [235, 155],
      [235, 185],
      [205, 185],
    ],
    { letGo: false },
  );
  await page.waitForFunction(() => window.bench!.painting.isLive);
  await expect.poll(async () => (await bench.shown(228, 168)).every((v) => v > 250)).toBe(false);
  await page.mouse.up();
  await bench.settled();
  await expect(bench.undoButton).toContainText('clone 1');
  const mended = await bench.exportPng();
  expect(white(mended)).toBe(0);
  // Alt was clicked at 420, the stroke began at 205: the source keeps that distance.
  expect(pixelOf(mended, 220, 170)).toEqual(pixelOf(photo, 435, 185));
  await bench.undoButton.click();
  await bench.settled();
  expect(differences((await bench.exportPng()).data, photo.data).count).toBe(0);
  await page.locator('canvas').first().focus();
  await bench.press('Control+Shift+z');
  await bench.settled();
  expect(differences((await bench.exportPng()).data, mended.data).count).toBe(0);
});

test('the source keeps its distance from stroke to stroke, or starts afresh, as chosen', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await bench.press('3', 'q');
  await bench.setNumber('rail', 'Size', 20);
  const sources = () => page.evaluate(() => window.bench!.state.job!.layers[0].mends.map((m) => m.source));
  await bench.clickAt(420, 300, 'Alt');
  await bench.drag([
    [100, 100],
    [110, 100],
  ]);
  await bench.settled();
  await bench.drag([
    [100, 200],
    [110, 200],
  ]);
  await bench.settled();
  expect(await sources()).toEqual([
    { dx: 320, dy: 200 },
    { dx: 320, dy: 200 },
  ]);
  await page.getByRole('contentinfo').getByLabel('Source').selectOption('afresh each stroke');
  await bench.drag([
    [100, 250],
    [110, 250],
  ]);
  await bench.settled();
  expect((await sources())[2]).toEqual({ dx: 320, dy: 50 });
});

test('without a source, clone says why nothing happens and offers the best one', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await bench.press('3', 'q');
  await bench.drag([
    [100, 100],
    [120, 100],
  ]);
  await expect(page.getByText('needs a place to take from')).toBeVisible();
  await page.getByRole('button', { name: 'Use the best source' }).click();
  await page.waitForFunction(() => window.bench!.state.sources[0].at !== null);
  await bench.drag([
    [100, 100],
    [120, 100],
  ]);
  await bench.settled();
  await expect(bench.mends()).toHaveCount(1);
});

test('heal: the same hand movement, tone fitted', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await bench.press('4', 'q');
  await bench.setNumber('rail', 'Size', 70);
  await bench.clickAt(420, 320, 'Alt');
  await bench.drag([
    [205, 155],
    [235, 155],
    [235, 185],
    [205, 185],
  ]);
  await bench.settled();
  const mended = await bench.exportPng();
  expect(white(mended)).toBe(0);
  const mean = (x0: number, y0: number, s: number) => {
    let sum = 0;
    for (let y = y0; y < y0 + s; y++) for (let x = x0; x < x0 + s; x++) sum += pixelOf(mended, x, y)[0];
    return sum / s / s;
  };
  const around = (mean(150, 150, 30) + mean(270, 150, 30)) / 2;
  expect(Math.abs(mean(205, 155, 30) - around)).toBeLessThan(25);
});

test('tap: one click on a speck finds its own source, which can be dragged afterwards', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await bench.press('1', 'q');
  await bench.setNumber('rail', 'Size', 76);
  await bench.clickAt(220, 170);
  await bench.settled();
  const first = await bench.exportPng();
  expect(white(first)).toBe(0);
  await bench.press('0');
  const source = await page.evaluate(() => window.bench!.state.job!.layers[0].mends[0].source!);
  const from: [number, number] = [220 + source.dx, 170 + source.dy];
  await bench.drag([from, [from[0] + 20, from[1] + 15]]);
  await bench.settled();
  expect(await page.evaluate(() => window.bench!.state.job!.layers[0].mends[0].source!)).toEqual({
    dx: source.dx + 20,
    dy: source.dy + 15,
  });
  await expect(bench.undoButton).toContainText('move source');
  expect(differences((await bench.exportPng()).data, first.data).count).toBeGreaterThan(100);
});

test('marks and taps that follow at once become a mend each; none is lost', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  for (const [i, key] of ['2', '1'].entries()) {
    await bench.press(key, 'q');
    await bench.page.evaluate(() => window.bench!.setNext({ sizePx: 20 }));
    const places = await Promise.all([60, 110, 260, 310, 360].map((x) => bench.at(x, 60 + 60 * i)));
    for (const [x, y] of places) {
      await page.mouse.move(x, y);
      await page.mouse.down();
      await page.mouse.move(x + 4, y + 2);
      await page.mouse.up();
    }
    await bench.settled();
    await expect(bench.mends()).toHaveCount((i + 1) * places.length);
    expect(await bench.page.evaluate(() => window.bench!.state.mark)).toBeNull();
    await bench.press('Escape', 'Escape');
  }
});

test('fill: marked by lasso half closed, computed with progress, another try keeps the first', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await bench.press('w');
  await bench.drag([
    [192, 142],
    [248, 142],
    [248, 198],
    [192, 198],
  ]);
  await bench.press('2');
  await bench.settled();
  const first = await bench.exportPng();
  expect(white(first)).toBe(0);
  for (let y = 0; y < 480; y += 7) expect(pixelOf(first, 20, y)).toEqual(pixelOf(photo, 20, y));
  await page.getByRole('button', { name: 'Another try' }).click();
  await bench.settled();
  const second = await bench.exportPng();
  expect(differences(first.data, second.data).count).toBeGreaterThan(200);
  const tries = page.getByRole('group', { name: 'Tries' });
  await expect(tries.getByRole('button', { name: '2', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await tries.getByRole('button', { name: '1', exact: true }).click();
  await bench.settled();
  expect(differences((await bench.exportPng()).data, first.data).count).toBe(0);
});

test('a fill can be cancelled: its mark stays, and it can be computed later', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('large.png', spottedPhoto(1400, 1000)));
  await bench.press('e');
  await bench.drag([
    [300, 250],
    [1000, 750],
  ]);
  await bench.press('2');
  const cancel = page.getByRole('button', { name: 'Cancel' });
  await expect(cancel).toBeVisible();
  await expect(page.getByRole('toolbar', { name: /on the photo/ }).getByRole('status')).toContainText('%');
  const took = await cancel.evaluate(async (button: HTMLElement) => {
    const start = performance.now();
    button.click();
    while (Object.keys(window.bench!.state.tasks).length > 0) await new Promise((r) => setTimeout(r, 5));
    return performance.now() - start;
  });
  expect(took).toBeLessThan(2500);
  await expect(page.getByText('Not computed: its area is kept')).toBeVisible();
  await page.getByRole('button', { name: 'Compute' }).click();
  await expect(cancel).toBeVisible();
  await cancel.click();
});

test('marking: brush and box add, Alt subtracts, margin and feather change the outline at once', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  const shapes = () => page.evaluate(() => window.bench!.state.mark?.shapes.map((s) => `${s.op} ${s.kind}`));
  await bench.press('e');
  await bench.drag([
    [100, 100],
    [200, 180],
  ]);
  await page.keyboard.down('Alt');
  await bench.drag([
    [130, 120],
    [170, 160],
  ]);
  await page.keyboard.up('Alt');
  await bench.press('q');
  await bench.drag([
    [300, 100],
    [340, 120],
  ]);
  expect(await shapes()).toEqual(['add box', 'subtract box', 'add stroke']);
  await bench.setNumber('Card', 'Margin', 12);
  await bench.setNumber('Card', 'Feather', 7);
  expect(
    await page.evaluate(() => [window.bench!.state.mark!.marginPx, window.bench!.state.mark!.featherPx]),
  ).toEqual([12, 7]);
  await bench.press('Escape');
  expect(await shapes()).toBe(undefined);
  await bench.press('e');
  await page.keyboard.down('Alt');
  await bench.drag([
    [130, 120],
    [170, 160],
  ]);
  await page.keyboard.up('Alt');
  await expect(page.getByText('Nothing is marked yet')).toBeVisible();
});
