import { expect, test } from '@playwright/test';
import type { Raster } from '../src/core/raster';
import { differences, noisePhoto, paintPhoto, texturedPhoto } from '../src/core/testing/pictures';
import { BenchPage, pixelOf } from './bench-page';
import { pngFile, spottedPhoto } from './photos';

const noise = noisePhoto(640, 480, 3);
const mends = (bench: BenchPage) =>
  bench.page.evaluate(() => window.bench!.state.job!.layers.flatMap((l) => l.mends));
const stateOf = <K extends string>(bench: BenchPage, key: K) =>
  bench.page.evaluate((k) => window.bench!.state[k as 'match'] as unknown, key);

/** Grey with grain; dark from column 400 on. */
function darkRight(): Raster {
  const grain = texturedPhoto(640, 480, 5);
  return paintPhoto(640, 480, 8, (x, y) => {
    const v = 0.12 * (grain.data[(y * 640 + x) * 4] / 255) + (x < 400 ? 0.55 : 0.05);
    return [v, v, v];
  });
}

test('a source is turned by keys, shown so inside the brush, painted so, and turned again by its handle', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await bench.setNumber('rail', 'Size', 60);
  await bench.setNumber('rail', 'Softness', 0);
  await bench.clickAt(400, 200, 'Alt');
  await bench.moveTo(200, 200);
  for (let i = 0; i < 18; i++) await bench.press('k');
  await bench.settled();
  const preview = await bench.shown(200.5, 190.5);
  await bench.drag([[200, 200]]);
  await bench.settled();
  const [mend] = await mends(bench);
  expect(mend.source).toMatchObject({ dx: 200, dy: 0, turnDeg: 90 });
  // A quarter turn is exact: what lies left of the source is laid above the target.
  const out = await bench.exportPng();
  for (const [u, v] of [
    [0, -10],
    [7, 12],
    [-20, 3],
  ])
    expect(pixelOf(out, 200 + u, 200 + v)).toEqual(pixelOf(noise, 400 + v, 200 - u - 1));
  const painted = await bench.shown(200.5, 190.5);
  painted.forEach((v, c) => {
    expect(Math.abs(v - preview[c])).toBeLessThan(70);
  });
  // Its handle stands at the outline's side: a drag round the middle turns it back to upright.
  await bench.press('0');
  await bench.clickAt(205, 205);
  const reach = 0.62 * Math.hypot(62, 62);
  const angle = ((-90 - 90) * Math.PI) / 180;
  const [hx, hy] = [400 + reach * Math.cos(angle), 200 + reach * Math.sin(angle)];
  await bench.drag([
    [hx, hy],
    [400 - 30, 200 - 30],
    [400, 200 - reach],
  ]);
  await bench.settled();
  const [turned] = await mends(bench);
  expect(Math.abs(turned.source!.turnDeg ?? 0)).toBeLessThan(4);
  await expect(bench.undoButton).toContainText('turn source');
});

test('a plane placed before painting carries the source along its perspective; its corners are dragged', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3');
  await page.getByRole('button', { name: 'Place plane' }).click();
  const before = (await page.evaluate(() => window.bench!.state.next.plane))!;
  await bench.press('3', '0');
  await page.evaluate(() => window.bench!.set({ method: 'clone' }));
  await bench.drag([before[0] as [number, number], [before[0][0] + 60, before[0][1]]]);
  const after = (await page.evaluate(() => window.bench!.state.next.plane))!;
  expect(after[0][0] - before[0][0]).toBeCloseTo(60, 0);
  expect(after.slice(1)).toEqual(before.slice(1));
  await bench.press('q');
  await bench.clickAt(360, 260, 'Alt');
  await bench.drag([
    [280, 240],
    [300, 245],
  ]);
  await bench.settled();
  const [mend] = await mends(bench);
  expect(mend.steer.plane).toEqual(after);
  expect(mend.source?.about).toBeDefined();
  await bench.press('0');
  await bench.clickAt(285, 240);
  await page.getByRole('button', { name: 'Remove plane' }).click();
  expect((await mends(bench))[0].steer.plane).toBeNull();
});

test('the twin loupe tells how well the source under the brush matches, live', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('dark.png', darkRight()));
  await bench.press('3', 'q');
  await bench.clickAt(500, 240, 'Alt');
  await bench.moveTo(200, 240);
  const loupe = page.getByRole('region', { name: 'Target and source' });
  await expect(loupe).toBeVisible();
  await expect(loupe).toContainText(/Lightness.*darker/);
  await bench.clickAt(320, 120, 'Alt');
  await bench.moveTo(200, 200);
  await bench.moveTo(202, 242);
  await expect(loupe).toContainText(/Lightness.*fits/);
  await bench.press('Escape');
  await expect(loupe).toBeHidden();
});

test('three sources are remembered, each with what is done to it; strokes can walk through them', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await bench.clickAt(400, 100, 'Alt');
  await bench.press('d');
  await bench.clickAt(500, 300, 'Alt');
  await bench.press('o', 'a');
  const sources = await page.evaluate(() => window.bench!.state.sources);
  expect(sources.map((s) => [s.at && Math.round(s.at.x), s.mirror])).toEqual([
    [400, false],
    [500, true],
    [null, false],
  ]);
  await page.getByRole('switch', { name: 'Walk through the sources' }).click();
  for (const y of [100, 200, 300]) {
    await bench.drag([
      [100, y],
      [140, y],
    ]);
    await bench.settled();
  }
  expect((await mends(bench)).map((m) => m.source?.mirror === true)).toEqual([false, true, false]);
});

test('taking from the same place a third time is told, with another source at hand', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await page.evaluate(() => window.bench!.setNext({ keepsDistance: false }));
  await bench.clickAt(400, 100, 'Alt');
  for (const x of [100, 200, 300]) {
    await bench.drag([[x, 300]]);
    await bench.settled();
  }
  await expect(page.getByText('taken from three times')).toBeVisible();
  await page.getByRole('button', { name: 'Use another source' }).click();
  await page.waitForFunction(() => window.bench!.state.sources[0].fixed !== null);
});

test('the source map veils what does not match; best and next best take from what does', async ({ page }) => {
  const bench = new BenchPage(page);
  const grain = texturedPhoto(640, 480, 5);
  const photo = paintPhoto(640, 480, 8, (x, y) => {
    const v = 0.1 * (grain.data[(y * 640 + x) * 4] / 255) + (x < 400 ? 0.4 : 0.88);
    return [v, v, v];
  });
  await bench.take(pngFile('light.png', photo));
  await bench.press('e');
  await bench.drag([
    [180, 200],
    [230, 250],
  ]);
  await bench.press('3');
  await bench.settled();
  const [plainRight, plainLeft] = [await bench.shown(520, 100), await bench.shown(100, 400)];
  await bench.press('m');
  await page.waitForFunction(() => window.bench!.state.sourceMap !== null);
  await bench.settled();
  const [right, left] = [await bench.shown(520, 100), await bench.shown(100, 400)];
  // Blue: what is tinted as best loses of it as well, but what is veiled loses more.
  expect(plainRight[2] - right[2]).toBeGreaterThan(90);
  expect(plainLeft[2] - left[2]).toBeLessThan(60);
  await bench.press('m');
  await bench.settled();
  expect(await bench.shown(520, 100)).toEqual(plainRight);
  for (const key of ['b', 'n', 'n']) {
    await bench.press(key);
    await bench.settled();
    const [{ source }] = await mends(bench);
    expect(205 + source!.dx + 31).toBeLessThan(405);
  }
});

test('a steadied stroke evens the hand out and stays short of where it turned', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await bench.clickAt(400, 100, 'Alt');
  const zigzag = [0, 1, 2, 3, 4, 5, 6].map((k) => [100 + 20 * k, 300 + (k % 2 ? 24 : -24)] as const);
  const sway = async () => {
    await bench.drag(zigzag);
    await bench.settled();
    const [shape] = (await mends(bench)).at(-1)!.area.shapes;
    if (shape.kind !== 'stroke') throw new Error('a stroke was painted');
    const ys = shape.points.slice(-12).map((p) => p[1]);
    return Math.max(...ys) - Math.min(...ys);
  };
  const free = await sway();
  await bench.setNumber('Card', 'Steadied', 80);
  const even = await sway();
  expect(free).toBeGreaterThan(40);
  expect(even).toBeLessThan(0.6 * free);
});

test('a rail keeps a dragged source on its row', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('e');
  await bench.drag([
    [180, 200],
    [230, 250],
  ]);
  await bench.press('3');
  await bench.settled();
  await page.getByRole('combobox', { name: 'Rail' }).selectOption({ label: 'sideways' });
  await bench.press('0');
  const [{ source }] = await mends(bench);
  const middle = [205 + source!.dx, 225 + source!.dy] as const;
  await bench.drag([middle, [middle[0] + 40, middle[1] + 25]]);
  await bench.settled();
  const [moved] = await mends(bench);
  expect(moved.source).toMatchObject({ dx: source!.dx + 40, dy: 0 });
});

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

test('a plane that is none, or a patch dropped beyond the photo, is told; nothing is made and nothing lost', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await page.evaluate(() =>
    window.bench!.setNext({
      plane: [
        [100, 100],
        [300, 300],
        [300, 100],
        [100, 300],
      ],
    }),
  );
  await bench.clickAt(400, 200, 'Alt');
  await bench.drag([
    [200, 200],
    [220, 200],
  ]);
  await expect(page.getByText('do not make a plane')).toBeVisible();
  expect(await mends(bench)).toHaveLength(0);
  await page.getByRole('button', { name: 'Remove plane' }).click();
  await bench.press('Escape', '5', 'e');
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
  expect(await stateOf(bench, 'mark')).not.toBeNull();
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

test('colour is picked with its grain and painted; rubbing away lets the photo through and is taken back', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  const photo = darkRight();
  await bench.take(pngFile('dark.png', photo));
  await bench.press('6', 'q');
  await bench.setNumber('rail', 'Size', 40);
  await bench.drag([
    [300, 240],
    [360, 240],
  ]);
  await expect(page.getByText('No colour is picked yet')).toBeVisible();
  await bench.clickAt(520, 240, 'Alt');
  await page.waitForFunction(() => window.bench!.state.next.colour !== null);
  await bench.drag([
    [300, 240],
    [360, 240],
  ]);
  await bench.settled();
  const painted = await bench.exportPng();
  expect(pixelOf(painted, 330, 240)[0]).toBeLessThan(60);
  await bench.press('0');
  await bench.clickAt(330, 240);
  await page.getByRole('button', { name: 'Rub away' }).click();
  await bench.setNumber('rail', 'Softness', 0);
  await bench.drag([
    [350, 215],
    [350, 265],
  ]);
  await bench.settled();
  const rubbed = await bench.exportPng();
  expect(pixelOf(rubbed, 350, 240)).toEqual(pixelOf(photo, 350, 240));
  expect(pixelOf(rubbed, 310, 240)).toEqual(pixelOf(painted, 310, 240));
  await page.keyboard.down('Alt');
  await bench.drag([
    [350, 230],
    [350, 250],
  ]);
  await page.keyboard.up('Alt');
  await page.getByRole('button', { name: 'Done' }).click();
  await bench.settled();
  expect(pixelOf(await bench.exportPng(), 350, 240)).toEqual(pixelOf(painted, 350, 240));
});

test('a visible join is knitted together by one stroke along it, and its strength changed after', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  const photo = darkRight();
  await bench.take(pngFile('dark.png', photo));
  await bench.press('7', 'q');
  await bench.setNumber('rail', 'Size', 60);
  await bench.drag([
    [400, 150],
    [400, 330],
  ]);
  await bench.settled();
  const step = async () => {
    const out = await bench.exportPng();
    let sum = 0;
    for (let y = 220; y < 260; y++) sum += pixelOf(out, 397, y)[0] - pixelOf(out, 403, y)[0];
    return sum / 40;
  };
  const knitted = await step();
  expect(knitted).toBeLessThan(50);
  await bench.mends().first().click();
  await bench.setNumber('Card', 'Strength', 30);
  await bench.settled();
  expect(await step()).toBeGreaterThan(knitted + 25);
});

test('a mend reads the layers that are chosen for it, and its own layer only, as told', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  const rail = page.getByRole('contentinfo');
  const clone = async (x: number, fromX: number) => {
    await bench.press('3', 'q');
    await rail.getByLabel('Source').selectOption({ label: 'afresh each stroke' });
    await bench.setNumber('rail', 'Size', 40);
    await bench.setNumber('rail', 'Softness', 0);
    await bench.clickAt(fromX, 200, 'Alt');
    await bench.clickAt(x, 200);
    await bench.settled();
    await bench.press('0');
  };
  await clone(100, 300);
  await page.getByRole('button', { name: 'Add layer' }).click();
  await clone(100, 400);
  await page.getByRole('button', { name: 'Add layer' }).click();
  await clone(500, 100);
  await bench.clickAt(500, 200);
  const card = page.getByRole('complementary', { name: 'Card' });
  const shows = async (x: number) =>
    expect(pixelOf(await bench.exportPng(), 500, 200)).toEqual(pixelOf(noise, x, 200));
  await shows(400);
  await card.getByLabel('Reads').selectOption({ label: 'chosen layers' });
  await bench.settled();
  await shows(100);
  await card.getByRole('group', { name: 'Layers that are read' }).getByLabel('Layer 1').click();
  await bench.settled();
  await shows(300);
  await card.getByLabel('Reads').selectOption({ label: 'this layer only' });
  await bench.settled();
  await shows(100);
  await card.getByLabel('Reads').selectOption({ label: 'the photo only' });
  await bench.settled();
  await shows(100);
});

test('a long stroke is split into mends and joined again; a method is switched any time', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await bench.setNumber('rail', 'Size', 30);
  await bench.clickAt(300, 100, 'Alt');
  await bench.drag([
    [100, 300],
    [300, 300],
    [500, 300],
  ]);
  await bench.settled();
  const whole = await bench.exportPng();
  await bench.press('0');
  await bench.clickAt(200, 300);
  await page.getByRole('button', { name: 'Split' }).click();
  await bench.settled();
  const parts = await mends(bench);
  expect(parts.length).toBeGreaterThan(2);
  await bench.mends().first().click();
  await page.getByRole('button', { name: 'Join with below' }).click();
  expect(await mends(bench)).toHaveLength(parts.length - 1);
  await bench.undoButton.click();
  // All at once: the first chosen, the others picked with Shift.
  await bench.mends().first().click();
  for (let i = 1; i < parts.length; i++)
    await bench
      .mends()
      .nth(i)
      .click({ modifiers: ['Shift'] });
  await page.getByRole('button', { name: `Join all ${parts.length}` }).click();
  await bench.settled();
  expect(await mends(bench)).toHaveLength(1);
  expect(differences((await bench.exportPng()).data, whole.data).count).toBe(0);
  await page
    .getByRole('complementary', { name: 'Card' })
    .getByRole('button', { name: 'Heal', exact: true })
    .click();
  await bench.settled();
  expect((await mends(bench)).at(-1)!.method).toBe('heal');
  for (let i = 0; i < 3; i++) await bench.undoButton.click();
  await bench.settled();
  expect((await bench.exportPng()).data).toEqual(whole.data);
});

test('Shift joins a stroke to the last one by a straight line; a pen’s pressure changes what it is told to', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await bench.clickAt(300, 60, 'Alt');
  await bench.drag([[100, 300]]);
  await bench.settled();
  await bench.clickAt(300, 340, 'Shift');
  await bench.settled();
  const second = (await mends(bench))[1];
  const [shape] = second.area.shapes;
  if (shape.kind !== 'stroke') throw new Error('a stroke was painted');
  expect(shape.points[0].slice(0, 2).map(Math.round)).toEqual([100, 300]);
  expect(shape.points.at(-1)!.slice(0, 2).map(Math.round)).toEqual([300, 340]);
  await page.getByRole('combobox', { name: 'Pressure' }).selectOption({ label: 'changes the opacity' });
  const [x, y] = await bench.at(200, 420);
  await page.evaluate(
    ([px, py]) => {
      const canvas = document.querySelector('canvas')!;
      const send = (type: string, clientX: number) =>
        canvas.dispatchEvent(
          new PointerEvent(type, {
            pointerId: 7,
            pointerType: 'pen',
            clientX,
            clientY: py,
            pressure: 0.5,
            button: type === 'pointermove' ? -1 : 0,
            buttons: 1,
            bubbles: true,
          }),
        );
      canvas.setPointerCapture = () => {};
      send('pointerdown', px);
      send('pointerrawupdate', px + 30);
      send('pointerup', px + 30);
    },
    [x, y],
  );
  await bench.settled();
  const pen = (await mends(bench))[2];
  expect(pen.area.shapes[0]).toMatchObject({ pressureTo: 'opacity' });
  const out = await bench.exportPng();
  const [was, from, now] = [
    pixelOf(noise, 205, 420),
    pixelOf(noise, 205 + pen.source!.dx, 420 + pen.source!.dy),
    pixelOf(out, 205, 420),
  ];
  now.forEach((v, c) => {
    expect(Math.abs(v - (was[c] + from[c]) / 2)).toBeLessThan(6);
  });
});

test('what is under the brush matches nothing once the source leaves the photo', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await bench.clickAt(600, 240, 'Alt');
  await bench.drag([[300, 240]]);
  await bench.settled();
  await bench.moveTo(500, 240);
  await bench.moveTo(510, 240);
  await expect.poll(() => stateOf(bench, 'match')).toBeNull();
});
