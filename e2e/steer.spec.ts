import type { Raster } from '../src/core/raster';
import { paintPhoto, texturedPhoto } from '../src/core/testing/pictures';
import { BenchPage, mends, pixelOf } from './bench-page';
import { expect, test } from './journey';
import { pngFile, spottedPhoto } from './photos';

/** Reddish on the left, bluish on the right, grainy, with a white box in the middle. */
function twoSided(width = 640, height = 480): Raster {
  const grain = texturedPhoto(width, height, 5);
  return paintPhoto(width, height, 8, (x, y) => {
    if (x >= 290 && x < 350 && y >= 210 && y < 270) return [1, 1, 1];
    const v = grain.data[(y * width + x) * 4] / 255;
    return x < width / 2 ? [0.4 + 0.4 * v, 0.2 * v, 0.2 * v] : [0.2 * v, 0.2 * v, 0.4 + 0.4 * v];
  });
}

/** Mean red minus blue in the middle of the mended box. */
function hue(picture: Raster, x0 = 300, x1 = 340): number {
  let sum = 0;
  for (let y = 220; y < 260; y++)
    for (let x = x0; x < x1; x++) {
      const [r, , b] = pixelOf(picture, x, y);
      sum += r - b;
    }
  return sum / (40 * (x1 - x0));
}

async function fillMiddle(bench: BenchPage): Promise<void> {
  await bench.press('e');
  await bench.drag([
    [284, 204],
    [356, 276],
  ]);
  await bench.press('2');
  await bench.settled();
}

test('an allow zone drawn for a mend decides where its fill comes from; it is kept, undone and removed', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('sides.png', twoSided()));
  await fillMiddle(bench);
  await page.getByRole('button', { name: 'Draw allow zone' }).click();
  await expect(page.getByText('Draw where it may take from')).toBeVisible();
  await bench.press('e');
  await bench.drag([
    [365, 60],
    [620, 420],
  ]);
  // Taken away again with Alt, as from a mark.
  await page.keyboard.down('Alt');
  await bench.drag([
    [365, 60],
    [620, 120],
  ]);
  await page.keyboard.up('Alt');
  await page.getByRole('button', { name: 'Done' }).click();
  expect((await mends(bench))[0].steer.allow?.shapes).toHaveLength(2);
  await expect(page.getByRole('complementary', { name: 'Mends' }).getByText('out of date')).toBeVisible();
  await page.getByRole('button', { name: 'Fill again' }).click();
  await bench.settled();
  expect(hue(await bench.exportPng())).toBeLessThan(-60);
  await page.reload();
  await bench.settled();
  expect((await mends(bench))[0].steer.allow?.shapes).toHaveLength(2);
  await bench.mends().first().click();
  await page.getByRole('button', { name: 'Remove allow zone' }).click();
  expect((await mends(bench))[0].steer.allow).toBeNull();
  await bench.undoButton.click();
  expect((await mends(bench))[0].steer.allow?.shapes).toHaveLength(2);
});

test('an avoid zone for the whole job holds for every fill after it', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('sides.png', twoSided()));
  await bench.press('2', 'q');
  await page.getByRole('button', { name: 'Draw avoid zone' }).click();
  await bench.press('w');
  await bench.drag([
    [318, 2],
    [638, 2],
    [638, 478],
    [318, 478],
  ]);
  await bench.press('Enter');
  await fillMiddle(bench);
  expect(hue(await bench.exportPng(), 325, 345)).toBeGreaterThan(0);
  await expect(page.getByText('the job’s')).toBeVisible();
});

test('what touches the mark is put into the avoid zone by one click, and a fill leaves it as it stands', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  const grain = texturedPhoto(640, 480, 8);
  const isOther = (x: number, y: number) => x >= 320 && x < 380 && y >= 160 && y < 320;
  const photo = paintPhoto(640, 480, 8, (x, y) => {
    if (x >= 260 && x < 320 && y >= 170 && y < 310) return [0.85, 0.25, 0.35];
    if (isOther(x, y)) return [0.05, 0.35, 0.4];
    const v = grain.data[(y * 640 + x) * 4] / 255;
    return [0.35 + 0.3 * v, 0.4 + 0.3 * v, 0.2 + 0.2 * v];
  });
  await bench.take(pngFile('two.png', photo));
  await bench.press('e');
  await bench.drag([
    [254, 164],
    [319, 316],
  ]);
  await expect(page.getByRole('button', { name: 'Avoid what touches it' })).toBeVisible();
  await page
    .getByRole('group', { name: 'Beside what is marked' })
    .getByRole('button', { name: 'Avoid it' })
    .click();
  await expect(page.getByText('job’s avoid zone now')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Avoid what touches it' })).toBeHidden();
  await bench.press('2');
  await bench.settled();
  const picture = await bench.exportPng();
  let [red, blue, n] = [0, 0, 0];
  for (let y = 180; y < 300; y++)
    for (let x = 264; x < 312; x++) {
      const [r, , b] = pixelOf(picture, x, y);
      red += r;
      blue += b;
      n++;
    }
  // The ground is more red than blue; the thing beside is not.
  expect((red - blue) / n).toBeGreaterThan(40);
  for (let y = 170; y < 310; y += 10) expect(pixelOf(picture, 345, y)).toEqual(pixelOf(photo, 345, y));
  await bench.undoButton.click();
  await bench.undoButton.click();
  expect(await page.evaluate(() => window.bench!.state.job!.zones.avoid)).toBeNull();
  // Who fills at once need not say so: what stands next to it is left out, until one goes on with it.
  await bench.press('Escape', 'e');
  await bench.drag([
    [254, 164],
    [319, 316],
  ]);
  await bench.press('2');
  const goOn = page.getByRole('button', { name: 'Go on with it' });
  await goOn.waitFor();
  await bench.settled();
  expect((await mends(bench))[0].steer.avoid?.shapes).toHaveLength(1);
  const meadow = await bench.exportPng();
  expect(pixelOf(meadow, 290, 240)[0] - pixelOf(meadow, 290, 240)[2]).toBeGreaterThan(10);
  await goOn.click();
  await bench.settled();
  const [mend] = await mends(bench);
  expect(mend.tries).toHaveLength(2);
  expect(mend.steer.avoid).toBeNull();
  // What was left out is found in the photo, not drawn: it is kept with the job all the same.
  await bench.undoButton.click();
  await bench.undoButton.click();
  await bench.settled();
  const [careful] = await mends(bench);
  expect(careful.steer.avoid?.shapes).toHaveLength(1);
  await page.reload();
  await bench.settled();
  expect(await mends(bench)).toEqual([careful]);
  expect((await bench.exportPng()).data).toEqual(meadow.data);
});

test('a rail, a plane and a guide line are laid down on the photo, dragged, and kept with the mend', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('yard.png', spottedPhoto()));
  await bench.press('e');
  await bench.drag([
    [196, 146],
    [244, 194],
  ]);
  await bench.press('2');
  await bench.settled();
  await page.getByLabel('Rail', { exact: true }).selectOption('drawn …');
  await bench.drag([
    [300, 300],
    [400, 350],
  ]);
  const [railed] = await mends(bench);
  expect(railed.steer.rail?.angleDeg).toBeCloseTo(26.6, 0);
  await bench.setNumber('Card', 'Rail width', 20);
  await page.getByRole('button', { name: 'Draw guide line' }).click();
  await bench.drag([
    [150, 170],
    [300, 172],
  ]);
  // One draws on under what tells how.
  const bar = (await page.getByText('Drag along an edge').boundingBox())!;
  await page.mouse.move(bar.x + 8, bar.y + 8);
  await page.mouse.down();
  await page.mouse.move(bar.x + 80, bar.y + 90, { steps: 4 });
  await page.mouse.up();
  // A hand that begins beside the photo selects no text, which the next stroke would drag along.
  await page.mouse.move(500, 20);
  await page.mouse.down();
  await page.mouse.move(500, 300, { steps: 4 });
  await page.mouse.up();
  expect(await page.evaluate(() => getSelection()?.toString())).toBe('');
  await bench.press('Escape');
  await page.getByRole('button', { name: 'Place plane' }).click();
  const plane = (await mends(bench))[0].steer.plane!;
  await bench.drag([
    [plane[0][0], plane[0][1]],
    [plane[0][0] + 30, plane[0][1] + 10],
  ]);
  const { steer } = (await mends(bench))[0];
  expect(steer.plane![0][0]).toBeCloseTo(plane[0][0] + 30, 0);
  expect(steer.plane![2]).toEqual(plane[2]);
  expect(steer.rail?.slackPx).toBe(20);
  expect(steer.lines).toHaveLength(2);
  const [x0, y0] = steer.lines[0];
  await bench.drag([
    [x0, y0],
    [x0, y0 - 40],
  ]);
  expect((await mends(bench))[0].steer.lines[0][1]).toBeCloseTo(y0 - 40, 0);
  await page.getByRole('button', { name: 'Remove guide lines' }).click();
  await page.getByRole('button', { name: 'Fill again' }).click();
  await bench.settled();
  const [filled] = await mends(bench);
  expect(filled.tries).toHaveLength(2);
  await expect.poll(() => page.evaluate(() => window.bench!.state.mendStates)).toEqual({});
});

test('tryouts: several candidates side by side, at 1:1 too; one is picked, no other is lost', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('yard.png', spottedPhoto()));
  await bench.press('e');
  await bench.drag([
    [196, 146],
    [244, 194],
  ]);
  await bench.press('2');
  await bench.settled();
  const first = (await mends(bench))[0].chosenTry;
  await bench.press('Shift+N');
  const dialog = page.getByRole('dialog', { name: /^Tryouts/ });
  await expect(dialog.getByRole('status')).toContainText('7 of 7 ready', { timeout: 60_000 });
  await expect(dialog.getByRole('img')).toHaveCount(7);
  await dialog.getByRole('radio', { name: '1:1' }).click();
  await expect(dialog.getByRole('img', { name: /mirrored too/ })).toBeVisible();
  await expect(dialog.getByRole('img', { name: /leaves neighbours out/ })).toBeVisible();
  await dialog
    .getByRole('listitem')
    .filter({ hasText: 'looks farther' })
    .getByRole('button', { name: 'Pick' })
    .click();
  await expect(dialog).toBeHidden();
  await bench.settled();
  const [picked] = await mends(bench);
  expect(picked.tries).toHaveLength(5);
  expect(picked.chosenTry).not.toBe(first);
  expect(picked.tries.find((t) => t.id === picked.chosenTry)?.params?.reach).toBe(2);
  await expect.poll(() => page.evaluate(() => window.bench!.state.mendStates)).toEqual({});
  await page.getByRole('group', { name: 'Tries' }).getByRole('button', { name: '1', exact: true }).click();
  expect((await mends(bench))[0].chosenTry).toBe(first);
  // Opened again it shows what there is; further ones only when asked for.
  await bench.press('Shift+N');
  await expect(dialog.getByRole('status')).toContainText('7 of 7 ready');
  await dialog.getByRole('button', { name: 'More fills' }).click();
  await expect(dialog.getByRole('status')).toContainText('11 of 11 ready', { timeout: 60_000 });
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  expect((await mends(bench))[0].tries).toHaveLength(9);
  await bench.press('Shift+N');
  await dialog
    .getByRole('listitem')
    .filter({ hasText: 'heal' })
    .getByRole('button', { name: 'Pick' })
    .click();
  await bench.settled();
  const [healed] = await mends(bench);
  expect(healed.method).toBe('heal');
  // Fills from before something was changed say so.
  await bench.undoButton.click();
  await expect.poll(async () => (await mends(bench))[0].method).toBe('fill');
  await page.getByRole('switch', { name: 'Mirror too' }).click();
  await bench.settled();
  await bench.press('Shift+N');
  await expect(dialog.getByRole('img', { name: /from before a change/ }).first()).toBeVisible();
  await page.keyboard.press('Escape');
  await bench.undoButton.click();
  expect(healed.tries.length).toBeGreaterThanOrEqual(5);
});

test('a second pass over what a fill left takes its settings; repeat takes the last fill’s', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('sides.png', twoSided()));
  await fillMiddle(bench);
  await page.getByRole('button', { name: 'Draw allow zone' }).click();
  await bench.press('e');
  await bench.drag([
    [365, 60],
    [620, 420],
  ]);
  await bench.press('Enter');
  await bench.press('Escape', 'q');
  await bench.setNumber('rail', 'Size', 16);
  await bench.drag([
    [310, 240],
    [318, 240],
  ]);
  await bench.press('2');
  await expect(page.getByText('second pass over Fill 1')).toBeVisible();
  await bench.settled();
  const [first, second] = await mends(bench);
  expect(second.steer).toEqual(first.steer);
  expect(second.params.reach).toBeGreaterThan(first.params.reach);
  await bench.press('Escape', 'Shift+2', 'q');
  await bench.drag([
    [100, 100],
    [112, 100],
  ]);
  await bench.settled();
  const [, , third] = await mends(bench);
  expect(third.params).toEqual(second.params);
  expect(third.steer).toEqual(second.steer);
});

test('with too little to draw from it says so, and keeps what was marked', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('yard.png', spottedPhoto(200, 160)));
  await bench.press('e');
  await bench.drag([
    [0, 0],
    [200, 160],
  ]);
  await bench.press('2');
  await expect(page.getByText(/not enough round this area/)).toBeVisible();
  await expect(bench.mends()).toHaveCount(1);
  await expect(page.getByText('Not computed: its area is kept')).toBeVisible();
});

test('a large fill shows a coarse answer early, says how far it is, and is cancelled at once', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  const photo = texturedPhoto(2000, 1500, 8);
  await bench.take(pngFile('large.png', photo));
  await bench.press('e');
  await bench.drag([
    [400, 300],
    [1600, 1200],
  ]);
  await bench.press('2');
  const shown = await page.waitForFunction(
    () => Object.values(window.bench!.state.tasks).find(({ coarse }) => coarse)?.stage,
  );
  expect(['reading', 'searching']).toContain(await shown.jsonValue());
  // Whatever the worker is doing, the answer comes with the click itself.
  const left = await page.evaluate(() => {
    [...document.querySelectorAll('button')].find((b) => b.textContent?.trim() === 'Cancel')!.click();
    return Object.keys(window.bench!.state.tasks).length;
  });
  expect(left).toBe(0);
  await bench.settled();
  await expect(bench.mends()).toHaveCount(1);
  await expect(page.getByText('Not computed: its area is kept')).toBeVisible();
});
