import { readFile } from 'node:fs/promises';
import { decodeMask, encodeMask } from '../src/core/formats';
import { BenchPage, pixelOf } from './bench-page';
import { expect, test } from './journey';
import { at, count, height, marked, markOf, open, scene, width } from './marks';

test('shapes add, take away and keep what lies in both: brush, corners, boxes and ovals', async ({
  page,
}) => {
  const bench = await open(page);
  await bench.press('e');
  await bench.drag([
    [100, 100],
    [300, 300],
  ]);
  expect(Math.abs(count(await marked(bench)) - 40_000)).toBeLessThan(900);
  await page.keyboard.down('Alt');
  await bench.drag([
    [100, 100],
    [200, 300],
  ]);
  await page.keyboard.up('Alt');
  expect(at(await marked(bench), 150, 200)).toBe(0);
  await page.getByRole('complementary', { name: 'Card' }).getByLabel('Shape').selectOption({ label: 'oval' });
  await page.keyboard.down('Shift');
  await page.keyboard.down('Alt');
  await bench.drag([
    [150, 100],
    [350, 300],
  ]);
  await page.keyboard.up('Alt');
  await page.keyboard.up('Shift');
  const both = await marked(bench);
  expect([at(both, 250, 200), at(both, 205, 105), at(both, 320, 200)]).toEqual([1, 0, 0]);
  await page.locator('canvas').first().focus();
  await bench.press('Escape', 'w');
  for (const [x, y] of [
    [400, 100],
    [600, 100],
    [600, 300],
  ] as const)
    await bench.clickAt(x, y);
  expect(await markOf(bench)).toBeNull();
  await bench.press('Enter');
  const corners = await marked(bench);
  expect([at(corners, 560, 140), at(corners, 430, 280)]).toEqual([1, 0]);
  expect(Math.abs(count(corners) - 20_000)).toBeLessThan(900);
});

test('by colour: press and pull; everywhere or only what hangs together', async ({ page }) => {
  const bench = await open(page);
  await bench.press('r');
  await bench.drag([
    [200, 250],
    [206, 250],
  ]);
  await bench.settled();
  const disc = count(await marked(bench));
  expect(Math.abs(disc / (Math.PI * 3600) - 1)).toBeLessThan(0.05);
  const card = page.getByRole('complementary', { name: 'Card' });
  // The ground, then with a tolerance so small that it falls apart.
  await page.locator('canvas').first().focus();
  await bench.press('Escape');
  await bench.clickAt(500, 420);
  await bench.settled();
  const ground = count(await marked(bench));
  expect(ground).toBeGreaterThan(100_000);
  await bench.setNumber('Card', 'Tolerance', 1);
  await bench.settled();
  expect(count(await marked(bench))).toBeLessThan(ground / 3);
  await bench.setNumber('Card', 'Tolerance', 25);
  await card.getByLabel('Everywhere').click();
  await bench.settled();
  const both = await marked(bench);
  expect([at(both, 20, 10), at(both, 20, 470), at(both, 200, 250)]).toEqual([1, 1, 0]);
});

test('mended in the moment it is let go, a picked colour is kept exactly and stays gone as a mark', async ({
  page,
}) => {
  const bench = await open(page);
  await bench.press('r');
  await bench.drag([
    [200, 250],
    [206, 250],
  ]);
  await bench.press('2');
  await bench.settled();
  await expect(bench.mends()).toHaveCount(1);
  expect(await markOf(bench)).toBeNull();
  const job = await bench.exportAs('Whole job');
  await bench.take({ name: 'again.vine.zip', mimeType: 'application/zip', buffer: job });
  await expect(bench.mends()).toHaveCount(1);
  expect(pixelOf(await bench.exportPng(), 200, 250)[0]).toBeLessThan(140);
});

test('a scribble grows to the thing, a scribble outside takes off, a ring works too', async ({ page }) => {
  const bench = await open(page);
  await bench.press('t');
  await bench.setNumber('rail', 'Size', 12);
  await bench.drag([
    [180, 230],
    [220, 270],
  ]);
  await bench.settled();
  const grown = await marked(bench);
  expect(Math.abs(count(grown) / (Math.PI * 3600) - 1)).toBeLessThan(0.12);
  expect([at(grown, 200, 250), at(grown, 300, 250)]).toEqual([1, 0]);
  await page.keyboard.down('Alt');
  await bench.drag([
    [200, 205],
    [205, 205],
  ]);
  await page.keyboard.up('Alt');
  await bench.settled();
  expect(at(await marked(bench), 202, 205)).toBe(0);
  await bench.press('Escape');
  expect(await markOf(bench)).toBeNull();
  const ring = Array.from({ length: 17 }, (_, k) => {
    const a = (k / 16) * 2 * Math.PI;
    return [200 + 85 * Math.cos(a), 250 + 85 * Math.sin(a)] as [number, number];
  });
  await bench.drag(ring);
  await bench.settled();
  expect(Math.abs(count(await marked(bench)) / (Math.PI * 3600) - 1)).toBeLessThan(0.12);
  // Mended like any mark, and still there after the page was opened again.
  await bench.press('2');
  await bench.settled();
  await page.reload();
  await bench.settled();
  expect(pixelOf(await bench.exportPng(), 200, 250)[0]).toBeLessThan(140);
});

test('scribbles of a quick hand all belong to the thing; what was set for the mark stays as more is marked', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await page.goto('/');
  await page.getByRole('button', { name: /Harvest day/ }).click();
  await page.waitForURL(/\/job\//);
  await bench.settled();
  await bench.press('t');
  const legs = [
    [
      [970, 720],
      [970, 930],
    ],
    [
      [920, 960],
      [925, 1340],
    ],
    [
      [1020, 960],
      [1045, 1350],
    ],
  ] as const;
  for (const leg of legs) await bench.drag(leg);
  await bench.settled();
  const found = await page.evaluate(() => {
    const { scribbles, mark } = window.bench!.state;
    const shape = mark!.shapes[0] as unknown as { x: number; y: number; w: number; h: number };
    return { scribbles: scribbles.inside.length, shapes: mark!.shapes.length, foot: shape.y + shape.h };
  });
  expect(found).toMatchObject({ scribbles: 3, shapes: 1 });
  expect(found.foot).toBeGreaterThan(1330);
  await bench.setNumber('Card', 'Smooth', 7);
  await page.locator('canvas').first().focus();
  await bench.press('q');
  await page.keyboard.down('Shift');
  await bench.drag([
    [700, 300],
    [800, 300],
  ]);
  await page.keyboard.up('Shift');
  const mark = await markOf(bench);
  expect(mark).toMatchObject({ smoothPx: 7 });
  expect(mark!.shapes).toHaveLength(2);
});

test('two clicks span the wire; its middle is found', async ({ page }) => {
  const bench = await open(page);
  await bench.press('y');
  await bench.clickAt(30, 66);
  await bench.clickAt(600, 94);
  await bench.settled();
  const wire = await marked(bench);
  for (const x of [60, 200, 400, 580]) {
    expect(at(wire, x, Math.round(60 + x / 16))).toBe(1);
    expect(at(wire, x, Math.round(60 + x / 16) + 12)).toBe(0);
  }
  await bench.press('2');
  await bench.settled();
  expect(pixelOf(await bench.exportPng(), 300, 79)[1]).toBeGreaterThan(80);
  await bench.press('y');
  await bench.clickAt(300, 430);
  await bench.clickAt(600, 450);
  await expect(page.getByText('No line was found between these clicks')).toBeVisible();
});

test('an outline is smoothed, filled, rid of crumbs, inverted and kept off a guard', async ({ page }) => {
  const bench = await open(page);
  await bench.press('e');
  const box = async (x: number, y: number, w: number, h: number, key?: 'Shift' | 'Alt') => {
    if (key) await page.keyboard.down(key);
    await bench.drag([
      [x, y],
      [x + w, y + h],
    ]);
    if (key) await page.keyboard.up(key);
  };
  await box(100, 100, 200, 200);
  await box(160, 160, 60, 60, 'Alt');
  await box(400, 100, 10, 10, 'Shift');
  await bench.setNumber('Card', 'Crumbs', 20);
  expect([at(await marked(bench), 405, 105), at(await marked(bench), 190, 190)]).toEqual([0, 0]);
  await page.getByRole('complementary', { name: 'Card' }).getByLabel('Fill holes').click();
  expect(at(await marked(bench), 190, 190)).toBe(1);
  await bench.setNumber('Card', 'Smooth', 15);
  expect(at(await marked(bench), 101, 101)).toBe(0);
  await bench.setNumber('Card', 'Margin', 29);
  await page.locator('canvas').first().focus();
  await bench.press('Alt+BracketRight', 'Alt+Shift+BracketRight');
  expect(await page.evaluate(() => window.bench!.state.mark!.marginPx)).toBe(40);
  expect(at(await marked(bench), 330, 200)).toBe(1);
  await page.getByRole('button', { name: 'Draw guard' }).click();
  await bench.press('e');
  await box(312, 40, 6, 330);
  await page.getByRole('button', { name: 'Done' }).click();
  const guarded = await marked(bench);
  expect([at(guarded, 308, 200), at(guarded, 330, 200), at(guarded, 70, 200)]).toEqual([1, 0, 1]);
  await page.getByRole('button', { name: 'Invert' }).click();
  const rest = await marked(bench);
  expect([at(rest, 190, 190), at(rest, 330, 200), at(rest, 600, 20)]).toEqual([0, 1, 1]);
});

test('areas are kept, marked again after a reload, written as PNG and read from one', async ({ page }) => {
  const bench = await open(page);
  await bench.press('r');
  await bench.clickAt(200, 250);
  await bench.settled();
  const before = await marked(bench);
  await page.locator('canvas').first().focus();
  await bench.press('p');
  const list = page.getByRole('region', { name: 'Kept areas' });
  await expect(list.getByRole('listitem')).toHaveCount(1);
  await bench.settled();
  await page.reload();
  await bench.settled();
  await list.getByRole('button', { name: 'Mark Area 1' }).click();
  expect(await marked(bench)).toEqual(before);
  const downloading = page.waitForEvent('download');
  await list.getByRole('button', { name: 'Export Area 1 as PNG' }).click();
  const file = await readFile(await (await downloading).path());
  const mask = decodeMask(new Uint8Array(file));
  expect([mask.w, mask.h]).toEqual([width, height]);
  expect(mask.data[250 * width + 200]).toBe(255);
  await list
    .getByLabel('PNG mask', { exact: true })
    .setInputFiles({ name: 'disc.png', mimeType: 'image/png', buffer: file });
  await expect(list.getByRole('listitem')).toHaveCount(2);
  await expect(list.getByText('disc', { exact: true })).toBeVisible();
  // A mask of another shape is refused with a sentence, and nothing is lost.
  const small = Buffer.from(encodeMask({ w: 40, h: 40, data: new Uint8Array(1600).fill(255) }));
  await list
    .getByLabel('PNG mask', { exact: true })
    .setInputFiles({ name: 'small.png', mimeType: 'image/png', buffer: small });
  await expect(page.getByText(/small\.png is 40 × 40 pixels/)).toBeVisible();
  await expect(list.getByRole('listitem')).toHaveCount(2);
  await list.getByRole('button', { name: 'Delete disc' }).click();
  await expect(list.getByRole('listitem')).toHaveCount(1);
  await bench.undoButton.click();
  await expect(list.getByRole('listitem')).toHaveCount(2);
  // It travels with the job.
  const job = await bench.exportAs('Whole job');
  await bench.take({ name: 'again.vine.zip', mimeType: 'application/zip', buffer: job });
  await expect(list.getByRole('listitem')).toHaveCount(2);
});

test('the mark is shown as one likes, and goes away with one key', async ({ page }) => {
  const bench = await open(page);
  await bench.press('e');
  await bench.drag([
    [100, 300],
    [300, 450],
  ]);
  const middle = () => bench.shown(201, 376);
  const plain = pixelOf(scene(), 201, 376);
  const card = page.getByRole('complementary', { name: 'Card' });
  const shift = async () => {
    const now = await middle();
    return Math.max(...now.map((v, c) => Math.abs(v - plain[c])));
  };
  await expect.poll(shift).toBeGreaterThan(15);
  await card.getByLabel('Marks as').selectOption({ label: 'outline only' });
  await expect.poll(shift).toBeLessThan(14);
  await card.getByLabel('Marks as').selectOption({ label: 'outline and tint' });
  await card.getByLabel('Marks in').selectOption({ label: 'yellow' });
  await expect.poll(async () => (await middle())[0]).toBeGreaterThan(plain[0] + 15);
  await page.locator('canvas').first().focus();
  await bench.press(';');
  await expect.poll(shift).toBeLessThan(14);
  // The next job looks so too.
  await page.reload();
  await page.waitForFunction(() => window.bench?.isOpen);
  await expect(card.getByLabel('Marks in')).toHaveValue('yellow');
});

test('a mend that is taken back leaves what was marked, to be mended otherwise', async ({ page }) => {
  const bench = await open(page);
  await bench.press('e');
  await bench.drag([
    [100, 100],
    [180, 160],
  ]);
  const mark = await markOf(bench);
  await bench.press('2');
  await bench.settled();
  await expect(bench.mends()).toHaveCount(1);
  expect(await markOf(bench)).toBeNull();
  await bench.undoButton.click();
  await expect(bench.mends()).toHaveCount(0);
  expect(await markOf(bench)).toEqual(mark);
  await bench.press('4');
  await bench.settled();
  const methods = () => page.evaluate(() => window.bench!.state.job!.layers[0].mends.map((m) => m.method));
  expect(await methods()).toEqual(['heal']);
  await bench.press('Control+z');
  expect(await markOf(bench)).toEqual(mark);
  await bench.press('Control+Shift+z');
  expect(await methods()).toEqual(['heal']);
  expect(await markOf(bench)).toBeNull();
});
