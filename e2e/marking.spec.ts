import { readFile } from 'node:fs/promises';
import { expect, test } from '@playwright/test';
import { type Area, noMasks, rasteriseArea } from '../src/core/area';
import { decodeMask, encodeMask } from '../src/core/formats';
import { makeRandom } from '../src/core/random';
import type { Raster } from '../src/core/raster';
import { paintPhoto, texturedPhoto } from '../src/core/testing/pictures';
import { BenchPage, pixelOf } from './bench-page';
import { pngFile } from './photos';

const [width, height] = [640, 480];

/** A red disc, a grey wire and four white specks before a ground with grain. */
function scene(): Raster {
  const random = makeRandom(9);
  return paintPhoto(width, height, 8, (x, y) => {
    const n = (random.next() - 0.5) * 0.05;
    if (Math.hypot(x - 200, y - 250) < 60) return [0.75 + n, 0.15 + n, 0.15 + n];
    if (Math.abs(y - 60 - x / 16) < 2.5) return [0.12 + n, 0.12 + n, 0.14 + n];
    if (
      [
        [420, 200],
        [500, 260],
        [450, 330],
        [560, 380],
      ].some(([sx, sy]) => Math.hypot(x - sx, y - sy) < 3)
    )
      return [0.97, 0.97, 0.97];
    return [0.35 + n, 0.5 + n, 0.4 + n];
  });
}

const markOf = (bench: BenchPage) => bench.page.evaluate(() => window.bench!.state.mark);

/** How many pixels are marked; masks are read from the page. */
async function marked(bench: BenchPage): Promise<Float32Array> {
  const area = (await markOf(bench)) as Area | null;
  if (!area) return new Float32Array(width * height);
  const ids = area.shapes.flatMap((s) => (s.kind === 'mask' ? [s.maskId] : []));
  const masks = new Map<string, { w: number; h: number; data: Uint8Array }>();
  for (const id of ids) {
    const mask = await bench.page.evaluate((maskId) => {
      const m = window.bench!.masks.get(maskId)!;
      return { w: m.w, h: m.h, data: [...m.data] };
    }, id);
    masks.set(id, { ...mask, data: Uint8Array.from(mask.data) });
  }
  return rasteriseArea(area, { x: 0, y: 0, w: width, h: height }, (id) => masks.get(id) ?? noMasks(id));
}

const count = (coverage: Float32Array) => coverage.reduce((n, v) => n + (v >= 0.5 ? 1 : 0), 0);
const at = (coverage: Float32Array, x: number, y: number) => coverage[y * width + x];

async function open(page: import('@playwright/test').Page): Promise<BenchPage> {
  const bench = new BenchPage(page);
  await bench.take(pngFile('marks.png', scene()));
  await bench.setNumber('Card', 'Margin', 0);
  await bench.setNumber('Card', 'Feather', 0);
  await page.locator('canvas').first().focus();
  return bench;
}

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
