import { makeRandom } from '../src/core/random';
import type { Raster } from '../src/core/raster';
import { paintPhoto, texturedPhoto } from '../src/core/testing/pictures';
import { BenchPage, pixelOf } from './bench-page';
import { expect, test } from './journey';
import { at, count, height, marked, open, width } from './marks';
import { pngFile } from './photos';

/** Something orange that stands on the ground and casts a shadow. */
function standing(): Raster {
  const random = makeRandom(4);
  return paintPhoto(width, height, 8, (x, y) => {
    const n = (random.next() - 0.5) * 0.05;
    if (x > 250 && x < 330 && y > 120 && y < 300) return [0.8 + n, 0.35 + n, 0.1 + n];
    if (x > 250 && x < 450 && y >= 298 && y < 335) return [0.26 + n, 0.28 + n, 0.23 + n];
    return [0.5 + n, 0.54 + n, 0.45 + n];
  });
}

test('a shadow is offered and added with one click; the outlook says what will work', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('shadow.png', standing()));
  await bench.press('e');
  await bench.drag([
    [249, 119],
    [331, 301],
  ]);
  const outlook = page.getByRole('complementary', { name: 'Card' });
  await expect(outlook.getByText('to draw from')).toBeVisible();
  const before = count(await marked(bench));
  await page.getByRole('button', { name: 'Shadow', exact: true }).click();
  await expect.poll(async () => count(await marked(bench))).toBeGreaterThan(before + 3000);
  const after = await marked(bench);
  expect(at(after, 410, 315)).toBe(1);
  const suggested = outlook
    .getByRole('button', { name: 'Fill', exact: true })
    .or(outlook.getByRole('button', { name: 'Heal', exact: true }));
  await suggested.first().click();
  await bench.settled();
  await expect(bench.mends()).toHaveCount(1);
});

test('what was offered beside an offer that is taken stays on offer', async ({ page }) => {
  const bench = new BenchPage(page);
  await page.goto('/');
  await page.getByRole('button', { name: /Mill pond/ }).click();
  await page.waitForURL(/\/job\//);
  await bench.settled();
  await bench.press('t');
  await bench.drag([
    [1500, 1250],
    [1650, 1240],
    [1850, 1290],
  ]);
  const reflection = page.getByRole('button', { name: 'Reflection', exact: true });
  const shadow = page.getByRole('button', { name: 'Shadow', exact: true });
  await expect(reflection).toBeVisible();
  // With its shadow, the drum has no shape that the water mirrors.
  await shadow.click();
  await expect(shadow).toBeHidden();
  await expect(page.getByRole('complementary', { name: 'Card' }).getByText('to draw from')).toBeVisible();
  await bench.settled();
  await expect(reflection).toBeVisible();
  const before = await page.evaluate(() => window.bench!.state.mark!.shapes.length);
  await reflection.click();
  await expect.poll(() => page.evaluate(() => window.bench!.state.mark!.shapes.length)).toBe(before + 1);
  await expect(reflection).toBeHidden();
});

test('a large area is cut into islands that become mends in turn; a bridge is laid in one gesture', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('wide.png', texturedPhoto(width, height, 12)));
  await bench.setNumber('Card', 'Margin', 0);
  await bench.press('e');
  await bench.drag([
    [200, 180],
    [460, 260],
  ]);
  const card = page.getByRole('complementary', { name: 'Card' });
  await card.getByRole('button', { name: 'Draw cuts' }).click();
  await bench.setNumber('rail', 'Size', 6);
  await bench.drag([
    [330, 160],
    [330, 280],
  ]);
  await bench.settled();
  await expect(card.getByText('2 parts')).toBeVisible();
  await page.getByRole('button', { name: 'Done' }).click();
  await card.getByLabel('Method for island 2').selectOption({ label: 'Heal' });
  await card.getByRole('button', { name: 'Mend them in turn' }).click();
  await bench.settled();
  await expect(bench.mends()).toHaveCount(2);
  const methods = await page.evaluate(() => window.bench!.state.job!.layers[0].mends.map((m) => m.method));
  expect(methods).toEqual(['fill', 'heal']);
  await expect(card.getByText('left out')).toBeVisible();
  await card.getByRole('button', { name: 'Count later parts as ground' }).click();
  await expect(card.getByText('left out')).toBeHidden();
  await expect(card.getByRole('button', { name: 'Fill again' })).toBeVisible();
  await bench.undoButton.click();
  await expect(card.getByText('left out')).toBeVisible();
  await bench.undoButton.click();
  await expect(bench.mends()).toHaveCount(0);
  await page.locator('canvas').first().focus();
  await bench.press('e');
  await bench.drag([
    [150, 300],
    [500, 380],
  ]);
  await card.getByRole('button', { name: 'Bridge' }).click();
  await bench.setNumber('rail', 'Size', 40);
  await bench.drag([
    [320, 280],
    [320, 400],
  ]);
  await bench.settled();
  await expect(bench.mends()).toHaveCount(1);
  expect(at(await marked(bench), 320, 340)).toBe(0);
  expect(at(await marked(bench), 200, 340)).toBe(1);
});

test('a sweep lists the specks; one is refused, the others become taps in one step', async ({ page }) => {
  const bench = await open(page);
  await page.getByRole('button', { name: 'Sweep the photo' }).click();
  const card = page.getByRole('complementary', { name: 'Card' });
  await bench.settled();
  await card.getByLabel('Dark faults').click();
  await bench.settled();
  const faults = card.getByRole('listitem');
  await expect(faults).toHaveCount(4);
  await card.getByLabel('Exaggerate').click();
  await card.getByLabel('Accept fault 1').click();
  // Lists more at once, and what was refused stays so.
  await bench.setNumber('Card', 'Sensitivity', 100);
  expect(await faults.count()).toBeGreaterThanOrEqual(4);
  await expect(card.getByLabel('Accept fault 1')).not.toBeChecked();
  await bench.setNumber('Card', 'Sensitivity', 50);
  await expect(card.getByText('3 of 4 accepted')).toBeVisible();
  await card.getByRole('button', { name: 'Mend 3' }).click();
  await expect(bench.mends()).toHaveCount(3);
  await bench.settled();
  const picture = await bench.exportPng();
  const white = [
    [420, 200],
    [500, 260],
    [450, 330],
    [560, 380],
  ].filter(([x, y]) => pixelOf(picture, x, y)[0] > 200);
  expect(white).toHaveLength(1);
  await bench.undoButton.click();
  await expect(bench.mends()).toHaveCount(0);
});
