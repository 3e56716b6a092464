import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { noisePhoto, paintPhoto, texturedPhoto } from '../src/core/testing/pictures';
import { BenchPage, mends, pixelOf } from './bench-page';
import { expect, test } from './journey';
import { darkRight, pngFile } from './photos';

const noise = noisePhoto(640, 480, 3);
const stateOf = <K extends string>(bench: BenchPage, key: K) =>
  bench.page.evaluate((k) => window.bench!.state[k as 'match'] as unknown, key);

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
  await expect.poll(() => stateOf(bench, 'match')).not.toBeNull();
  const upright = await stateOf(bench, 'match');
  for (let i = 0; i < 18; i++) await bench.press('k');
  // The figures follow though the hand rests.
  await expect.poll(() => stateOf(bench, 'match')).not.toEqual(upright);
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
  // Corners are dragged, nothing is painted meanwhile; who tries to is told so.
  await bench.drag([
    [300, 100],
    [360, 100],
  ]);
  await expect(page.getByText('it does not paint')).toBeVisible();
  await bench.drag([before[0] as [number, number], [before[0][0] + 60, before[0][1]]]);
  const after = (await page.evaluate(() => window.bench!.state.next.plane))!;
  expect(after[0][0] - before[0][0]).toBeCloseTo(60, 0);
  expect(after.slice(1)).toEqual(before.slice(1));
  // To say where to take from takes the brush.
  await bench.clickAt(360, 260, 'Alt');
  await bench.drag([
    [280, 240],
    [300, 245],
  ]);
  await bench.settled();
  const [mend] = await mends(bench);
  expect(mend.steer.plane).toEqual(after);
  expect(mend.source?.about).toBeDefined();
  await page.getByRole('button', { name: 'Move its corners' }).click();
  await bench.drag([after[0] as [number, number], [after[0][0] - 30, after[0][1]]]);
  const moved = (await page.evaluate(() => window.bench!.state.next.plane))!;
  expect(moved[0][0] - after[0][0]).toBeCloseTo(-30, 0);
  await bench.press('0');
  await bench.clickAt(285, 240);
  await page.getByRole('button', { name: 'Remove plane' }).click();
  expect((await mends(bench))[0].steer.plane).toBeNull();
});

test('the outlook of a mark on a wall that runs away lays a plane along its courses, for a fill of it and for heals', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  const buffer = readFileSync(join(import.meta.dirname, '..', 'demo', 'patterns', 'bricks.jpg'));
  await bench.take({ name: 'bricks.jpg', mimeType: 'image/jpeg', buffer });
  await bench.press('w');
  const roundAt = (x: number, y: number) =>
    Array.from({ length: 25 }, (_, k): [number, number] => {
      const angle = (k / 24) * 2 * Math.PI;
      return [x + 80 * Math.cos(angle), y + 70 * Math.sin(angle)];
    });
  await bench.drag(roundAt(250, 400));
  await page.getByRole('button', { name: 'Place a plane' }).click();
  await expect(page.getByText('laid along the photo’s lines')).toBeVisible();
  const plane = (await page.evaluate(() => window.bench!.state.next.plane))!;
  const [[ax, ay], [bx, by], [cx, cy], [dx, dy]] = plane;
  // Its long sides run to where the camera looks along the wall, (1163, 367).
  expect(Math.abs(by + ((cy - by) * (1163 - bx)) / (cx - bx) - 367)).toBeLessThan(25);
  expect(Math.abs(ay + ((dy - ay) * (1163 - ax)) / (dx - ax) - 367)).toBeLessThan(25);
  const mendNext = async (key: string) => {
    const { length } = await mends(bench);
    await page.locator('canvas').first().focus();
    await bench.press(key);
    await expect.poll(async () => (await mends(bench)).length).toBe(length + 1);
    await bench.settled();
    return (await mends(bench))[length].steer.plane;
  };
  expect(await mendNext('2')).toEqual(plane);
  // The next mark is filled as it is, though it lies in the same place; it is seen to lie on a plane, and says so.
  await bench.press('Control+z', 'Escape', 'w');
  await bench.drag(roundAt(250, 400));
  expect(await mendNext('2')).toBeNull();
  await page.getByRole('button', { name: 'Place that plane' }).click();
  await bench.settled();
  const placed = (await mends(bench))[0].steer.plane!;
  const [, [px, py], [qx, qy]] = placed;
  expect(Math.abs(py + ((qy - py) * (1163 - px)) / (qx - px) - 367)).toBeLessThan(40);
  await bench.press('Escape', 'w');
  await bench.drag(roundAt(430, 220));
  expect(await mendNext('4')).toEqual(plane);
});

test('the twin loupe tells how well the source under the brush matches, live', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('dark.png', darkRight()));
  await bench.press('3', 'q');
  const loupe = page.getByRole('region', { name: 'Target and source' });
  await bench.clickAt(500, 240, 'Alt');
  await bench.moveTo(200, 240);
  await expect(loupe).toBeVisible();
  await expect(loupe).toContainText(/Lightness.*darker/);
  // What is painted, and taken back, is seen though the hand rests.
  await bench.setNumber('rail', 'Size', 40);
  await bench.drag(
    [170, 190, 210, 230].flatMap((x): [number, number][] => [
      [x, 200],
      [x, 280],
      [200, 240],
    ]),
  );
  await expect(loupe).toContainText(/Lightness.*fits/);
  await bench.press('Control+z');
  await expect(loupe).toContainText(/Lightness.*darker/);
  await bench.press('q');
  await bench.clickAt(320, 120, 'Alt');
  await bench.moveTo(200, 200);
  await bench.moveTo(202, 242);
  await expect(loupe).toContainText(/Lightness.*fits/);
  await bench.press('Escape');
  await expect(loupe).toBeHidden();
  // Taken up while the hand is elsewhere, it has nothing to show until the brush is over the photo again.
  await page.getByRole('button', { name: 'Export' }).hover();
  await bench.press('3', 'q');
  await expect(page.getByLabel('Target and source')).toBeAttached();
  await expect(loupe).toBeHidden();
  await bench.moveTo(210, 230);
  await expect(loupe).toBeVisible();
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

test('each remembered source keeps the plane that was laid down with it', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await bench.clickAt(400, 100, 'Alt');
  await bench.press('d');
  await bench.clickAt(500, 300, 'Alt');
  await page.getByRole('button', { name: 'Place plane' }).click();
  await page.evaluate(() => window.bench!.set({ method: 'clone' }));
  await bench.press('q');
  const plane = await page.evaluate(() => window.bench!.state.next.plane);
  const paint = async (y: number) => {
    await bench.drag([
      [200, y],
      [230, y],
    ]);
    await bench.settled();
  };
  await paint(220);
  await bench.press('a');
  await paint(300);
  await bench.press('d');
  await paint(260);
  expect(plane).not.toBeNull();
  expect((await mends(bench)).map((m) => m.steer.plane)).toEqual([plane, null, plane]);
});

test('keys scale and mirror the source; what is painted is that much larger', async ({ page }) => {
  const bench = new BenchPage(page);
  // Two flat halves: where the source's border comes to lie tells the scale.
  const halves = paintPhoto(640, 480, 8, (x) => (x < 420 ? [0.2, 0.2, 0.2] : [0.8, 0.8, 0.8]));
  await bench.take(pngFile('halves.png', halves));
  await bench.press('3', 'q');
  await bench.setNumber('rail', 'Size', 100);
  await bench.setNumber('rail', 'Softness', 0);
  await bench.clickAt(400, 200, 'Alt');
  await bench.moveTo(150, 200);
  for (let i = 0; i < 8; i++) await bench.press('i');
  await bench.drag([[150, 200]]);
  await bench.settled();
  const [larger] = await mends(bench);
  expect(larger.source!.scale).toBeCloseTo(1.05 ** 8, 2);
  // 20 pixels right of the source lies the border: 1.05⁸ times as far right of the target it is laid on.
  const border = 150 + 20 * 1.05 ** 8;
  const out = await bench.exportPng();
  expect(pixelOf(out, Math.round(border - 4), 200)[0]).toBeLessThan(70);
  expect(pixelOf(out, Math.round(border + 4), 200)[0]).toBeGreaterThan(185);
  for (let i = 0; i < 8; i++) await bench.press('u');
  await bench.press('o');
  await bench.clickAt(400, 200, 'Alt');
  await bench.drag([[150, 350]]);
  await bench.settled();
  const mirrored = (await mends(bench))[1];
  expect(mirrored.source).toMatchObject({ mirror: true });
  const turned = await bench.exportPng();
  // The source was set anew at the same place: its light side now lies on the left.
  expect(pixelOf(turned, 150 - 26, 350)[0]).toBeGreaterThan(185);
  expect(pixelOf(turned, 150 + 26, 350)[0]).toBeLessThan(70);
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

test('a plane that is none is told, and nothing is painted', async ({ page }) => {
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
});

test('what is under the brush is compared with what there is of the source, and with nothing once that leaves the photo', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await bench.clickAt(600, 240, 'Alt');
  await bench.drag([[300, 240]]);
  await bench.settled();
  await bench.moveTo(330, 240);
  await bench.moveTo(340, 240);
  await expect.poll(() => stateOf(bench, 'match')).toMatchObject({ lightness: expect.any(Number) });
  await bench.moveTo(500, 240);
  await bench.moveTo(510, 240);
  await expect.poll(() => stateOf(bench, 'match')).toBeNull();
  // A hand that rests where its stroke ended is told, too.
  await bench.drag([
    [500, 300],
    [320, 300],
  ]);
  await expect.poll(() => stateOf(bench, 'match')).toMatchObject({ lightness: expect.any(Number) });
});
