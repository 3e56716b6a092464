import { differences, noisePhoto } from '../src/core/testing/pictures';
import { BenchPage, mends, pixelOf } from './bench-page';
import { expect, test } from './journey';
import { darkRight, pngFile } from './photos';

const noise = noisePhoto(640, 480, 3);

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

test('strokes that follow at once are all kept, however slow the brush', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  for (const key of ['3', '4']) {
    await bench.press(key, 'q');
    await bench.clickAt(400, 100, 'Alt');
    await bench.page.evaluate(() => window.bench!.setNext({ sizePx: 300 }));
    const before = (await mends(bench)).length;
    const starts = [100, 160, 220, 280, 340].map((x) => [x, 300] as const);
    const [moves, ends] = [starts, starts.map(([x, y]) => [x + 30, y + 20] as const)];
    const onScreen = await Promise.all([...moves, ...ends].map((p) => bench.at(...p)));
    for (let i = 0; i < starts.length; i++) {
      await page.mouse.move(...onScreen[i]);
      await page.mouse.down();
      await page.mouse.move(...onScreen[starts.length + i]);
      await page.mouse.up();
    }
    await bench.settled();
    const made = (await mends(bench)).slice(before);
    const firstXs = made.map(({ area: { shapes } }) =>
      shapes[0].kind === 'stroke' ? Math.round(shapes[0].points[0][0]) : 0,
    );
    expect(firstXs).toEqual(starts.map(([x]) => x));
    // Undo at once takes back the stroke just painted, not the one before.
    await page.mouse.down();
    await page.mouse.move(...onScreen[0]);
    await page.mouse.up();
    await bench.press('Control+z');
    await bench.settled();
    expect((await mends(bench)).slice(before).map((m) => m.id)).toEqual(made.map((m) => m.id));
  }
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
  const pressure = page.getByRole('combobox', { name: 'Pressure' });
  await pressure.selectOption({ label: 'changes the opacity' });
  await penStroke(bench, 200, 420, 0.5);
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
  // Pressed lightly, a hard brush is soft: less is laid on near its rim than when pressed hard.
  await pressure.selectOption({ label: 'changes the softness' });
  await bench.setNumber('rail', 'Size', 40);
  await bench.setNumber('rail', 'Softness', 0);
  await penStroke(bench, 400, 420, 0.2);
  await penStroke(bench, 320, 420, 1);
  const soft = await bench.exportPng();
  /** How far the pixels 15 above the stroke have come from what was there towards the source. */
  const laidOn = async (k: number, px: number): Promise<number> => {
    const { source } = (await mends(bench))[k];
    let [gone, way] = [0, 0];
    for (let x = px; x < px + 24; x++)
      pixelOf(soft, x, 405).forEach((v, c) => {
        const [before, goal] = [
          pixelOf(noise, x, 405)[c],
          pixelOf(noise, x + source!.dx, 405 + source!.dy)[c],
        ];
        gone += (v - before) * Math.sign(goal - before);
        way += Math.abs(goal - before);
      });
    return gone / way;
  };
  expect(await laidOn(3, 404)).toBeLessThan(0.5);
  expect(await laidOn(4, 324)).toBeGreaterThan(0.95);
});

/** How many pixels of the screen differ from what they are once all of it is drawn anew. */
const drawnAmiss = (bench: BenchPage) =>
  bench.page.evaluate(async () => {
    const canvas = document.querySelector('canvas')!;
    const frame = () => new Promise((resume) => requestAnimationFrame(resume));
    const look = () => canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data;
    await frame();
    const before = look();
    window.bench!.view!.invalidate();
    await frame();
    await frame();
    const after = look();
    let differ = 0;
    for (let i = 0; i < before.length; i += 4)
      if (before[i] !== after[i] || before[i + 1] !== after[i + 1] || before[i + 2] !== after[i + 2])
        differ++;
    return differ;
  });

test('what is drawn in parts while the brush moves and paints is what is drawn in one go', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('noise.png', noise));
  await bench.press('3', 'q');
  await bench.setNumber('rail', 'Size', 44);
  await bench.clickAt(430, 110, 'Alt');
  for (const zoom of [0.83, 1, 2.6]) {
    await page.evaluate((z) => window.bench!.view!.zoomTo(z), zoom);
    await bench.settled();
    for (const [x, y] of [
      [250, 190],
      [290, 260],
      [333, 215],
    ])
      await page.mouse.move(...(await bench.at(x, y)), { steps: 4 });
    await bench.settled();
    expect(await drawnAmiss(bench), `hovering at ${zoom}`).toBe(0);
    // From the second stroke on there is a mend whose outline gives way while the next is painted.
    await page.evaluate(() => {
      const { job } = window.bench!.state;
      window.bench!.set({ chosen: job!.layers[0].mends[0]?.id ?? null });
    });
    await page.mouse.down();
    for (const [x, y] of [
      [300, 260],
      [260, 225],
    ])
      await page.mouse.move(...(await bench.at(x, y)), { steps: 6 });
    // What the stroke shows is on its way for a while; once the hand rests, all of it is shown anew.
    await page.waitForTimeout(400);
    await page.waitForFunction(() => {
      const painting = window.bench!.painting as unknown as { feed: { sending: unknown } };
      return painting.feed.sending === null;
    });
    expect(await drawnAmiss(bench), `painting at ${zoom}`).toBe(0);
    await page.mouse.up();
    await bench.settled();
  }
  await page.keyboard.press('l');
  await page.evaluate(() => window.bench!.view!.zoomTo(1));
  await bench.settled();
  await bench.clickAt(250, 200);
  await page.mouse.move(...(await bench.at(330, 270)), { steps: 5 });
  await page.mouse.move(...(await bench.at(270, 290)), { steps: 5 });
  expect(await drawnAmiss(bench), 'a straight line of the lasso').toBe(0);
});

/** A pen's stroke of 30 pixels sideways. */
async function penStroke(bench: BenchPage, docX: number, docY: number, pressure: number): Promise<void> {
  const [x, y] = await bench.at(docX, docY);
  const [to] = await bench.at(docX + 30, docY);
  await bench.page.evaluate(
    ([px, end, py, force]) => {
      const canvas = document.querySelector('canvas')!;
      const send = (type: string, clientX: number) =>
        canvas.dispatchEvent(
          new PointerEvent(type, {
            pointerId: 7,
            pointerType: 'pen',
            clientX,
            clientY: py,
            pressure: force,
            button: type === 'pointermove' ? -1 : 0,
            buttons: 1,
            bubbles: true,
          }),
        );
      canvas.setPointerCapture = () => {};
      send('pointerdown', px);
      send('pointerrawupdate', end);
      send('pointerup', end);
    },
    [x, to, y, pressure],
  );
  await bench.settled();
}
