import { noisePhoto } from '../src/core/testing/pictures';
import { BenchPage, mends, pixelOf } from './bench-page';
import { expect, test } from './journey';
import { darkRight, pngFile, spottedPhoto } from './photos';

test('patch: draw round a thing, drag it to where it should come from; seen while it is dragged; nudged after', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  const photo = spottedPhoto();
  await bench.take(pngFile('spot.png', photo));
  await bench.press('5', 'e');
  await bench.drag([
    [190, 140],
    [250, 200],
  ]);
  await expect(page.getByText('Drag what is marked to where it should come from')).toBeVisible();
  expect(await bench.shown(220, 170)).not.toEqual([0, 0, 0]);
  await bench.drag(
    [
      [220, 170],
      [320, 180],
    ],
    { letGo: false },
  );
  await page.waitForFunction(() => window.bench!.view!.settled);
  await page.waitForTimeout(200);
  const during = await bench.shown(205, 155);
  expect(Math.min(...during)).toBeLessThan(235);
  await page.mouse.up();
  await bench.settled();
  const [mend] = await mends(bench);
  expect(mend).toMatchObject({ method: 'patch', source: { dx: 100, dy: 10 } });
  await page.locator('canvas').first().focus();
  await page.keyboard.press('Alt+ArrowRight');
  expect((await mends(bench))[0].source).toMatchObject({ dx: 101, dy: 10 });
  await bench.undoButton.click();
  await bench.undoButton.click();
  expect(await mends(bench)).toHaveLength(0);
});

test('a patch dropped beyond the photo is told; nothing is made and nothing lost', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noisePhoto(640, 480, 3)));
  await bench.press('5', 'e');
  await bench.drag([
    [100, 100],
    [160, 160],
  ]);
  await bench.drag([
    [130, 130],
    [-70, 20],
  ]);
  await expect(page.getByText('beyond the edge of the photo')).toBeVisible();
  await bench.settled();
  expect(await mends(bench)).toHaveLength(0);
  expect(await page.evaluate(() => window.bench!.state.mark)).not.toBeNull();
});

test('patch the other way round: a good part is dragged onto the thing', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('spot.png', spottedPhoto()));
  await bench.press('5', 'e');
  await page.getByRole('combobox', { name: 'Draw round' }).selectOption({ label: 'a good part' });
  await bench.drag([
    [390, 140],
    [450, 200],
  ]);
  await bench.drag([
    [420, 170],
    [220, 170],
  ]);
  await bench.settled();
  const [mend] = await mends(bench);
  expect(mend.source).toMatchObject({ dx: 200, dy: 0 });
  const out = await bench.exportPng();
  expect(Math.min(...pixelOf(out, 220, 170))).toBeLessThan(235);
});

test('stop lines are found where the area touches something else, and keep its tone out', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('dark.png', darkRight()));
  await bench.press('5', 'e');
  await page.evaluate(() => window.bench!.setNext({ marginPx: 0, featherPx: 0 }));
  await bench.drag([
    [340, 200],
    [400, 260],
  ]);
  // From the light side, far from the dark one.
  await bench.drag([
    [370, 230],
    [170, 230],
  ]);
  await bench.settled();
  // It is told and offered: one click adds them.
  await page.getByRole('button', { name: /^Add (a|\d+) stop lines?$/ }).click();
  expect((await mends(bench))[0].stops.length).toBeGreaterThan(0);
  await bench.undoButton.click();
  const light = async () => {
    const out = await bench.exportPng();
    let sum = 0;
    for (let y = 215; y < 245; y++) for (let x = 385; x < 398; x++) sum += pixelOf(out, x, y)[0];
    return sum / (30 * 13);
  };
  const smeared = await light();
  await page.getByRole('button', { name: 'Find stop lines' }).click();
  await bench.settled();
  expect((await mends(bench))[0].stops.length).toBeGreaterThan(0);
  expect((await light()) - smeared).toBeGreaterThan(20);
  // By hand as well: one stroke along the edge.
  await page.getByRole('button', { name: 'Remove stop lines' }).click();
  await page.getByRole('button', { name: 'Draw stop line' }).click();
  await bench.press('q');
  await bench.setNumber('rail', 'Size', 12);
  await bench.drag([
    [401, 195],
    [401, 265],
  ]);
  await page.getByRole('button', { name: 'Done' }).click();
  expect((await mends(bench))[0].stops).toHaveLength(1);
  expect((await light()) - smeared).toBeGreaterThan(20);
});
