import { differences, texturedPhoto } from '../src/core/testing/pictures';
import { BenchPage } from './bench-page';
import { expect, test } from './journey';
import { pngFile, spottedPhoto, white } from './photos';

const photo = spottedPhoto();
const file = () => pngFile('yard.png', photo);

test('a mend can be moved, softened, faded, switched, hidden, duplicated, renamed and deleted; each can be undone', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await bench.press('e');
  await bench.drag([
    [190, 140],
    [250, 200],
  ]);
  await bench.press('4');
  await bench.settled();
  const steps: string[] = [];
  const label = async () => steps.push((await bench.undoButton.textContent())!.replace('Undo', '').trim());
  const mend = () => page.evaluate(() => window.bench!.state.job!.layers[0].mends[0]);
  await label();
  await bench.press('0');
  await bench.drag([
    [220, 170],
    [240, 160],
  ]);
  await bench.settled();
  await label();
  await page.locator('canvas').first().focus();
  await bench.press('ArrowRight', 'Alt+ArrowDown');
  await bench.settled();
  await label();
  await bench.setNumber('Card', 'Feather', 9);
  await label();
  await bench.setNumber('Card', 'Opacity', 60);
  await label();
  await page.getByRole('complementary', { name: 'Card' }).getByLabel('Mode').selectOption('lighten');
  await label();
  await page.getByRole('complementary', { name: 'Card' }).getByRole('button', { name: 'Clone' }).click();
  await bench.settled();
  await label();
  const changed = await mend();
  expect(changed).toMatchObject({ method: 'clone', opacity: 0.6, blend: 'lighten', area: { featherPx: 9 } });
  await page.getByRole('button', { name: /More for/ }).click();
  await page.getByRole('menuitem', { name: 'Hide' }).click();
  await label();
  expect(differences((await bench.exportPng()).data, photo.data).count).toBe(0);
  await page.getByRole('button', { name: /More for/ }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(bench.mends()).toHaveCount(2);
  await label();
  await bench.mends().first().getByText(/copy/).dblclick();
  await page.getByRole('complementary', { name: 'Mends' }).getByLabel('Mend name').fill('Gatepost');
  await page.keyboard.press('Enter');
  await label();
  await bench.mends().first().getByRole('button', { name: 'More for Gatepost' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(bench.mends()).toHaveCount(1);
  await label();
  expect(steps).toEqual([
    'heal 1',
    'move mend',
    'nudge source',
    'feather',
    'opacity',
    'blend mode',
    'heal to clone',
    'hide mend',
    'duplicate mend',
    'rename mend',
    'delete mend',
  ]);
  for (let i = 0; i < 12; i++) await page.keyboard.press('Control+z');
  await bench.settled();
  await expect(bench.mends()).toHaveCount(0);
});

test('a mend’s area can be added to and taken away from afterwards', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await bench.press('e');
  await bench.drag([
    [190, 140],
    [222, 200],
  ]);
  await bench.press('4');
  await bench.settled();
  expect(white(await bench.exportPng())).toBeGreaterThan(100);
  await page.getByRole('button', { name: 'Change area', exact: true }).click();
  await bench.press('e');
  await bench.drag([
    [215, 140],
    [250, 200],
  ]);
  await page.keyboard.down('Alt');
  await bench.drag([
    [185, 190],
    [260, 210],
  ]);
  await page.keyboard.up('Alt');
  await page.getByRole('button', { name: 'Keep area' }).click();
  await bench.settled();
  await expect(bench.undoButton).toContainText('change area');
  const shapes = await page.evaluate(() =>
    window.bench!.state.job!.layers[0].mends[0].area.shapes.map((s) => s.op),
  );
  expect(shapes).toEqual(['add', 'add', 'subtract']);
  expect(white(await bench.exportPng())).toBe(0);
  await page.getByRole('button', { name: 'Change area', exact: true }).click();
  await bench.drag([
    [300, 300],
    [330, 330],
  ]);
  await page.getByRole('button', { name: 'Leave as it was' }).click();
  await expect(bench.undoButton).toContainText('change area');
  // What is marked before comes back, whatever is drawn for the mend meanwhile.
  await bench.drag([
    [60, 60],
    [90, 90],
  ]);
  const marked = () => page.evaluate(() => window.bench!.state.mark?.shapes.length ?? 0);
  await expect.poll(marked).toBe(1);
  await page.getByRole('button', { name: 'Change area', exact: true }).click();
  await bench.drag([
    [240, 150],
    [270, 190],
  ]);
  await expect.poll(marked).toBe(4);
  await page.getByRole('button', { name: 'Keep area' }).click();
  await bench.settled();
  await expect.poll(marked).toBe(1);
  await page.getByRole('button', { name: 'Rub away', exact: true }).click();
  await expect.poll(marked).toBe(0);
  await page.keyboard.press('Escape');
  await expect.poll(marked).toBe(1);
});

test('a burst of arrow keys is one step back, and of a fill one further try; so are keys on a slider', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('nudge.png', texturedPhoto(480, 360, 12)));
  const mend = () => page.evaluate(() => window.bench!.state.job!.layers[0].mends[0]);
  const left = async () => (await mend()).area.shapes[0] as unknown as { x: number };
  // One upon the other, without waiting for each: however slow the machine, they are one burst.
  const burst = (key: string, times: number) =>
    Promise.all(Array.from({ length: times }, () => page.keyboard.press(key)));
  await bench.press('e');
  await bench.drag([
    [200, 150],
    [240, 190],
  ]);
  await bench.press('2');
  await bench.settled();
  await page.locator('canvas').first().focus();
  const from = (await left()).x;
  await burst('ArrowRight', 5);
  await bench.settled();
  expect((await left()).x).toBe(from + 5);
  expect((await mend()).tries).toHaveLength(2);
  await expect(bench.undoButton).toContainText('nudge mend');
  const margin = page.getByRole('complementary', { name: 'Card' }).getByRole('slider', { name: 'Margin' });
  const before = (await mend()).area.marginPx;
  await margin.focus();
  await burst('ArrowRight', 4);
  await expect.poll(async () => (await mend()).tries.length).toBe(3);
  expect((await mend()).area.marginPx).toBeGreaterThan(before);
  await bench.settled();
  await page.locator('canvas').first().focus();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await bench.settled();
  expect((await left()).x).toBe(from);
  expect(await mend()).toMatchObject({ area: { marginPx: before }, tries: { length: 1 } });
  // Taken back at once, before they have rested.
  await burst('ArrowDown', 2);
  await page.keyboard.press('Control+z');
  await bench.settled();
  expect((await mend()).tries).toHaveLength(1);
  await expect(page.getByRole('button', { name: /Redo/ })).toBeEnabled();
});
