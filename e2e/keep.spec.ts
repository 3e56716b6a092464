import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { readJobFile, writeJobFile } from '../src/core/formats';
import { differences } from '../src/core/testing/pictures';
import { BenchPage } from './bench-page';
import { expect, test } from './journey';
import { jpegFile, pngFile, spottedPhoto } from './photos';

const photo = spottedPhoto();
const file = () => pngFile('yard.png', photo);

async function healBox(bench: BenchPage): Promise<void> {
  await bench.press('e');
  await bench.drag([
    [190, 140],
    [250, 200],
  ]);
  await bench.press('4');
  await bench.settled();
  await bench.press('Escape', 'Escape');
}

test('history and pixels survive a reload; undo goes on where it was', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await healBox(bench);
  await bench.press('e');
  await bench.drag([
    [400, 300],
    [440, 340],
  ]);
  await bench.press('2');
  await bench.settled();
  const before = await bench.exportPng();
  await page.keyboard.press('Control+z');
  await bench.settled();
  await page.reload();
  await bench.settled();
  await expect(bench.undoButton).toContainText('heal 1');
  await page.getByRole('button', { name: 'Redo fill 2' }).click();
  await bench.settled();
  expect(differences((await bench.exportPng()).data, before.data).count).toBe(0);
});

test('a tab killed in the middle of a stroke loses that stroke and nothing else', async ({
  context,
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await healBox(bench);
  const kept = await bench.exportPng();
  const url = page.url();
  await bench.press('3', 'q');
  await bench.clickAt(420, 300, 'Alt');
  await bench.drag(
    [
      [100, 100],
      [150, 130],
      [120, 200],
    ],
    { letGo: false },
  );
  await page.waitForFunction(() => window.bench!.painting.isLive);
  await page.close();
  const next = await context.newPage();
  const again = new BenchPage(next);
  await next.goto(url);
  await again.settled();
  await expect(again.mends()).toHaveCount(1);
  expect(differences((await again.exportPng()).data, kept.data).count).toBe(0);
});

test('computing that stops in the middle of a stroke is started again and takes nothing of it with it', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await healBox(bench);
  const before = await bench.exportPng();
  await bench.press('3', 'q');
  await bench.clickAt(420, 300, 'Alt');
  const path = [
    [100, 100],
    [150, 130],
    [120, 200],
  ] as const;
  await bench.drag(path.slice(0, 2), { letGo: false });
  await page.waitForFunction(() => window.bench!.painting.isLive);
  for (const worker of page.workers())
    await worker.evaluate(() => {
      setTimeout(() => {
        throw new Error('stopped for a test');
      });
    });
  await expect(page.getByText('Computing stopped unexpectedly')).toBeVisible();
  await bench.moveTo(...path[2]);
  await page.mouse.up();
  await expect(bench.mends()).toHaveCount(2);
  await bench.settled();
  const { data } = await bench.exportPng();
  // Its beginning, from before the stop, and its end.
  for (const [x, y] of [path[0], path[2]]) {
    const at = 4 * (y * photo.width + x);
    const from = 4 * ((y + 200) * photo.width + x + 320);
    expect([...data.subarray(at, at + 3)]).toEqual([...before.data.subarray(from, from + 3)]);
  }
});

test('a tab closed in the middle of a fill keeps its area, to be computed again', async ({
  context,
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(pngFile('large.png', spottedPhoto(1400, 1000)));
  const url = page.url();
  await bench.press('e');
  await bench.drag([
    [300, 250],
    [1000, 750],
  ]);
  await bench.press('2');
  await expect(page.getByRole('button', { name: 'Cancel' })).toBeVisible();
  await page.waitForFunction(() => !window.bench!.unkept);
  await page.close();
  const next = await context.newPage();
  const again = new BenchPage(next);
  await next.goto(url);
  await again.settled();
  await expect(again.mends()).toHaveCount(1);
  await expect(again.mends().first()).toContainText('not computed');
});

test('the original is stored byte for byte with its digest, and a damaged one is not opened', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  const original = await jpegFile('yard.jpg', photo);
  await bench.take(original);
  const stored = await page.evaluate(async () => {
    const { original: row } = await new Promise<{ original: { file: Blob; sha256: string } }>((resolve) => {
      const open = indexedDB.open('vine-needle');
      open.onsuccess = () => {
        const get = open.result.transaction('originals').objectStore('originals').getAll();
        get.onsuccess = () => resolve({ original: get.result[0] });
      };
    });
    return { bytes: [...new Uint8Array(await row.file.arrayBuffer())], sha256: row.sha256 };
  });
  expect(Buffer.from(stored.bytes).equals(original.buffer)).toBe(true);
  expect(stored.sha256).toBe(createHash('sha256').update(original.buffer).digest('hex'));
  await page.evaluate(
    () =>
      new Promise<void>((resolve) => {
        const open = indexedDB.open('vine-needle');
        open.onsuccess = () => {
          const store = open.result.transaction('originals', 'readwrite').objectStore('originals');
          const get = store.getAll();
          get.onsuccess = () => {
            store.put({ ...get.result[0], file: new Blob(['something else']) }).onsuccess = () => resolve();
          };
        };
      }),
  );
  await page.reload();
  await expect(page.getByText('is damaged')).toBeVisible();
});

test('a second tab on the same job opens read-only and says so', async ({ context, page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await healBox(bench);
  const second = await context.newPage();
  const other = new BenchPage(second);
  await second.goto(page.url());
  await other.settled();
  await expect(second.getByText('Open in another tab')).toBeVisible();
  await expect(second.getByRole('button', { name: /^Undo/ })).toBeDisabled();
  await expect(second.getByRole('button', { name: /^Clone/ })).toBeDisabled();
  await page.close();
  await second.reload();
  await other.settled();
  await expect(second.getByText('Open in another tab')).toHaveCount(0);
});

test('export as PNG, JPEG and WebP at full size; the whole job comes back to the identical picture', async ({
  page,
}) => {
  const bench = new BenchPage(page);
  await bench.take(await jpegFile('yard.jpg', photo));
  await healBox(bench);
  await bench.press('w');
  await bench.drag([
    [400, 300],
    [440, 300],
    [440, 340],
    [400, 335],
  ]);
  await bench.press('2');
  await bench.settled();
  const png = await bench.exportPng();
  expect([png.width, png.height]).toEqual([640, 480]);
  const jpeg = await bench.exportAs('JPEG');
  expect([...jpeg.subarray(0, 3)]).toEqual([0xff, 0xd8, 0xff]);
  const webp = await bench.exportAs('WebP');
  expect(webp.subarray(8, 12).toString()).toBe('WEBP');
  const jobFile = await bench.exportAs('Whole job');
  const bundle = readJobFile(new Uint8Array(jobFile));
  expect(bundle.job.layers[0].mends.map((m) => m.method)).toEqual(['heal', 'fill']);
  await bench.take({ name: 'yard.vine.zip', mimeType: 'application/zip', buffer: jobFile });
  expect(differences((await bench.exportPng()).data, png.data).count).toBe(0);
  await expect(bench.mends()).toHaveCount(2);
});

test('a job of many long strokes is read from its file, and written again', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await healBox(bench);
  await bench.settled();
  const made = readJobFile(new Uint8Array(await bench.exportAs('Whole job')));
  const [layer] = made.job.layers;
  const mends = Array.from({ length: 150 }, (_, k) => {
    const points = Array.from({ length: 400 }, (_, i) => [40.0625 + i / 8, 20.125 + 2 * k, 1] as const);
    const stroke = { kind: 'stroke', op: 'add', points, radiusPx: 2, hardness: 1 } as const;
    const area = { shapes: [stroke], marginPx: 0, featherPx: 0 };
    return { ...layer.mends[0], id: `long-${k}`, method: 'clone' as const, params: {}, area };
  });
  const long = { ...made, job: { ...made.job, layers: [{ ...layer, mends }] } };
  const bytes = writeJobFile(long);
  await bench.take({ name: 'long.vine.zip', mimeType: 'application/zip', buffer: Buffer.from(bytes) });
  const again = readJobFile(new Uint8Array(await bench.exportAs('Whole job')));
  expect(again.job.layers[0].mends.map((m) => m.area)).toEqual(mends.map((m) => m.area));
});

test('without a browser the same job and the same sheet give the same bytes', async ({ page }) => {
  const run = promisify(execFile);
  const folder = await mkdtemp(join(tmpdir(), 'vine-'));
  const bench = new BenchPage(page);
  await bench.take(file());
  await healBox(bench);
  await bench.press('w');
  await bench.drag([
    [400, 300],
    [440, 300],
    [440, 340],
    [400, 335],
  ]);
  await bench.press('2');
  await bench.settled();
  const png = await bench.exportAs('PNG');
  const jpeg = await bench.exportAs('JPEG');
  await writeFile(join(folder, 'job.vine.zip'), await bench.exportAs('Whole job'));
  const headless = (...args: string[]) => run('npx', ['tsx', 'src/headless/main.ts', ...args]);
  await headless('render', join(folder, 'job.vine.zip'), '--out', join(folder, 'out.png'));
  expect((await readFile(join(folder, 'out.png'))).equals(png)).toBe(true);
  await headless('render', join(folder, 'job.vine.zip'), '--out', join(folder, 'out.jpg'), '--quality', '92');
  expect((await readFile(join(folder, 'out.jpg'))).equals(jpeg)).toBe(true);
  // The same mends, as a sheet: the fill is computed anew, by its seed.
  const { job } = readJobFile(new Uint8Array(await readFile(join(folder, 'job.vine.zip'))));
  const mends = job.layers[0].mends.map(({ id, tries, chosenTry, ...rest }) => ({
    ...rest,
    seed: tries.find((t) => t.id === chosenTry)?.seed ?? 1,
  }));
  await writeFile(join(folder, 'in.png'), file().buffer);
  await writeFile(
    join(folder, 'sheet.json'),
    JSON.stringify({ format: 'vine-needle-sheet', version: 1, mends }),
  );
  await headless(
    'apply',
    '--photo',
    join(folder, 'in.png'),
    '--sheet',
    join(folder, 'sheet.json'),
    '--out',
    join(folder, 'applied.png'),
  );
  expect((await readFile(join(folder, 'applied.png'))).equals(png)).toBe(true);
});

test('a broken job file is refused with a sentence, and the shelf stays as it was', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  const whole = await bench.exportAs('Whole job');
  const half = {
    name: 'half.vine.zip',
    mimeType: 'application/zip',
    buffer: whole.subarray(0, whole.length >> 1),
  };
  const bent = Buffer.from(whole);
  const at = bent.indexOf('vine-needle-job');
  if (at > 0) bent.write('xxxx-needle-job', at);
  await bench.take(half, {
    name: 'none.zip',
    mimeType: 'application/zip',
    buffer: Buffer.from([0x50, 0x4b, 5, 6, ...new Array(18).fill(0)]),
  });
  await expect(page.getByRole('alert').filter({ hasText: 'half.vine.zip' })).toContainText(
    'not a complete ZIP',
  );
  await expect(page.getByRole('alert').filter({ hasText: 'none.zip' })).toContainText('manifest');
  await expect(
    page.getByRole('region', { name: 'Jobs', exact: false }).first().getByRole('listitem'),
  ).toHaveCount(1);
});

test('compare: hold to flip, drag the divider, two linked views', async ({ page }) => {
  const bench = new BenchPage(page);
  await bench.take(file());
  await healBox(bench);
  await page.locator('canvas').first().focus();
  const isWhite = async (x = 220) => (await bench.shown(x, 170)).every((v) => v > 250);
  expect(await isWhite()).toBe(false);
  await page.keyboard.down('.');
  await expect.poll(isWhite).toBe(true);
  await page.keyboard.up('.');
  await expect.poll(isWhite).toBe(false);
  await page.keyboard.press(',');
  const slider = page.getByRole('slider', { name: /Divider/ });
  const box = (await slider.boundingBox())!;
  const [wantedX] = await bench.at(260, 170);
  await page.mouse.move(box.x + box.width / 2, box.y + 40);
  await page.mouse.down();
  await page.mouse.move(wantedX, box.y + 60, { steps: 6 });
  await page.mouse.up();
  await expect.poll(isWhite).toBe(true);
  await page.mouse.move(wantedX, box.y + 40);
  await page.mouse.down();
  const [leftX] = await bench.at(150, 170);
  await page.mouse.move(leftX, box.y + 60, { steps: 6 });
  await page.mouse.up();
  await expect.poll(isWhite).toBe(false);
  await page.keyboard.press(',');
  await page.keyboard.press('/');
  await expect(page.getByText('before', { exact: true })).toBeVisible();
  await expect(page.getByText('after', { exact: true })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByText('after', { exact: true })).toHaveCount(0);
});
