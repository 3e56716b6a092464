import { differences } from '../src/core/testing/pictures';
import { BenchPage } from './bench-page';
import { expect, test } from './journey';
import { pngFile, spottedPhoto } from './photos';

const photo = spottedPhoto();
const file = () => pngFile('yard.png', photo);

test('layers: add, name, hide, fade, blend, reorder; mends move between them', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await bench.press('e');
  await bench.drag([
    [190, 140],
    [250, 200],
  ]);
  await bench.press('4');
  await bench.settled();
  await page.getByRole('button', { name: 'Add layer' }).click();
  await page.getByText('Layer 2', { exact: true }).dblclick();
  await page.getByLabel('Layer name').fill('Specks');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: /More for Heal/ }).click();
  await page.getByRole('menuitem', { name: 'Move to Specks' }).click();
  await expect(page.getByRole('region', { name: 'Specks' }).getByRole('listitem')).toHaveCount(1);
  await page.getByRole('button', { name: 'Hide Specks' }).click();
  expect(differences((await bench.exportPng()).data, photo.data).count).toBe(0);
  await page.getByRole('button', { name: 'Show Specks' }).click();
  await page.getByRole('button', { name: 'Settings of Specks' }).click();
  await page.getByRole('dialog').getByLabel('Blend').selectOption('multiply');
  await page.getByRole('dialog').getByRole('button', { name: 'Down' }).click();
  await page.keyboard.press('Escape');
  expect(await page.evaluate(() => window.bench!.state.job!.layers.map((l) => [l.name, l.blend]))).toEqual([
    ['Specks', 'multiply'],
    ['Layer 1', 'normal'],
  ]);
});

test('mends are reordered by dragging them in the list', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  for (const x of [100, 300, 450]) {
    await bench.press('e');
    await bench.drag([
      [x, 300],
      [x + 40, 340],
    ]);
    await bench.press('4');
    await bench.settled();
    await bench.press('Escape', 'Escape');
  }
  const names = () => page.evaluate(() => window.bench!.state.job!.layers[0].mends.map((m) => m.name));
  expect(await names()).toEqual(['Heal 1', 'Heal 2', 'Heal 3']);
  const from = await bench.mends().nth(0).boundingBox();
  const to = await bench.mends().nth(2).boundingBox();
  await page.mouse.move(from!.x + 40, from!.y + 20);
  await page.mouse.down();
  await page.mouse.move(to!.x + 40, to!.y + 30, { steps: 12 });
  await page.mouse.up();
  await expect.poll(names).toEqual(['Heal 3', 'Heal 1', 'Heal 2']);
});

test('what is mended on a hidden layer is told of, and shown by one click', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await page.getByRole('button', { name: 'Hide Layer 1' }).click();
  await page.locator('canvas').first().focus();
  await bench.press('3', 'q');
  await bench.setNumber('rail', 'Size', 60);
  await bench.clickAt(420, 170, 'Alt');
  await bench.drag([
    [205, 165],
    [235, 175],
  ]);
  await bench.settled();
  await expect(bench.mends()).toHaveCount(1);
  await expect(page.getByText('Layer 1 is hidden, so what was mended on it does not show.')).toBeVisible();
  const before = await bench.shown(220, 170);
  await page.getByRole('button', { name: 'Show the layer' }).click();
  await bench.settled();
  expect(await bench.shown(220, 170)).not.toEqual(before);
  await expect(page.getByRole('button', { name: 'Hide Layer 1' })).toBeVisible();
});
