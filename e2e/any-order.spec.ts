import { makeRandom } from '../src/core/random';
import { differences, texturedPhoto } from '../src/core/testing/pictures';
import { BenchPage } from './bench-page';
import { expect, test } from './journey';
import { pngFile } from './photos';

const steps = 70;

/** What people do, by chance and in any order, without waiting for what it brings about. */
function deeds(bench: BenchPage, seed: number): { names: string[]; next: () => Promise<void> } {
  const { page } = bench;
  const random = makeRandom(seed);
  const some = (most: number) => random.below(most);
  const place = (): [number, number] => [60 + some(480), 60 + some(320)];
  const near = ([x, y]: [number, number], far: number): [number, number] => [
    x + some(2 * far) - far,
    y + some(2 * far) - far,
  ];
  const box = async () => {
    const [x, y] = place();
    await bench.press('e');
    await bench.drag([
      [x, y],
      [x + 15 + some(40), y + 15 + some(40)],
    ]);
  };
  const paint = async (method: string) => {
    await bench.press(method, 'q');
    await bench.clickAt(...place(), 'Alt');
    const at = place();
    await bench.drag([at, near(at, 40), near(at, 40)]);
  };
  const button = async (name: RegExp) => {
    const found = page.getByRole('button', { name }).first();
    // What is covered by something else just now is not pressed.
    if (await found.isVisible()) await found.click({ timeout: 1000 }).catch(() => {});
  };
  const keys = (key: string) => async () => {
    for (let i = 0; i <= some(3); i++) await bench.press(key);
  };
  const all: Record<string, () => Promise<void>> = {
    box,
    'box, filled': async () => {
      await box();
      await bench.press('2');
    },
    'scribble, healed': async () => {
      const at = place();
      await bench.press('t');
      await bench.drag([at, near(at, 30)]);
      await bench.press('4');
    },
    lasso: async () => {
      const [x, y] = place();
      await bench.press('w');
      await bench.drag([
        [x, y],
        [x + 40, y + 4],
        [x + 36, y + 30],
        [x + 2, y + 28],
      ]);
    },
    fill: () => bench.press('2'),
    clone: () => paint('3'),
    heal: () => paint('4'),
    'drag something': async () => {
      const at = place();
      await bench.press('0');
      await bench.drag([at, near(at, 60)]);
    },
    'choose a mend': async () => {
      const mends = bench.mends();
      const count = await mends.count();
      if (count > 0)
        await mends
          .nth(some(count))
          .click({ timeout: 1000 })
          .catch(() => {});
    },
    'change area': () => button(/^Change area/),
    'draw a zone': () => button(/^Draw (avoid|allow) zone/),
    'find islands': () => button(/slands/),
    another: () => button(/^Another/),
    'end what is drawn': () => button(/^(Done|Leave|Keep)/),
    'follow a notice': () => button(/^(Go on with it|Avoid it|Use)/),
    undo: keys('Control+z'),
    redo: keys('Control+Shift+z'),
    nudge: keys('ArrowLeft'),
    escape: keys('Escape'),
    delete: () => bench.press('Delete'),
    wait: () => page.waitForTimeout(400),
  };
  const names: string[] = [];
  const choice = Object.keys(all);
  return {
    names,
    next: async () => {
      const name = choice[some(choice.length)];
      names.push(name);
      await all[name]();
    },
  };
}

test('whatever is done, the job opens again as it was, goes back to the beginning and forward, and its file is whole', async ({
  page,
}) => {
  // Half a minute, but for a machine that is slowed down.
  test.setTimeout(300_000);
  const bench = new BenchPage(page);
  const photo = texturedPhoto(600, 440, 5);
  await bench.take(pngFile('any.png', photo));
  const chance = deeds(bench, 21);
  const job = () => page.evaluate(() => window.bench!.state.job!);
  for (let i = 0; i < steps; i++) await chance.next();
  await bench.press('Escape', 'Escape', 'Escape');
  await bench.settled();
  const made = await job();
  expect(made.layers.flatMap((layer) => layer.mends).length).toBeGreaterThan(2);
  await page.reload();
  await bench.settled();
  expect(await job(), chance.names.join(', ')).toEqual(made);
  const picture = await bench.exportPng();
  const file = await bench.exportAs('Whole job');
  let back = 0;
  for (; await bench.undoButton.isEnabled(); back++) await bench.undoButton.click();
  await bench.settled();
  expect((await job()).layers.flatMap((layer) => layer.mends)).toEqual([]);
  expect(differences((await bench.exportPng()).data, photo.data).count).toBe(0);
  for (let i = 0; i < back; i++) await bench.press('Control+Shift+z');
  await bench.settled();
  expect(await job()).toEqual(made);
  await bench.take({ name: 'any.vine.zip', mimeType: 'application/zip', buffer: file });
  expect(differences((await bench.exportPng()).data, picture.data).count).toBe(0);
});
