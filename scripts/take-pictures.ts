/** Takes the pictures in docs/screenshots from the demo data, in the built application: `npm run pictures`. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';

const root = join(import.meta.dirname, '..');
const port = 4344;
const server = spawn(process.execPath, ['node_modules/next/dist/bin/next', 'start', '--port', String(port)], {
  cwd: root,
  stdio: 'ignore',
});
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});

async function settled(page: Page): Promise<void> {
  await page.waitForFunction(() => window.bench?.isOpen && window.bench.view?.settled && !window.bench.busy);
  await page.waitForTimeout(900);
}

/** Puts a point of the photo in the middle of the screen. */
async function look(page: Page, x: number, y: number, zoom: number): Promise<void> {
  await page.evaluate(
    ([px, py, z]) => {
      const view = window.bench!.view!;
      view.camera = { x: px, y: py, zoom: z };
      window.bench!.set({ zoom: z });
      view.touch();
    },
    [x, y, zoom],
  );
  await settled(page);
}

/** Moves the pointer to a point of the photo. */
async function pointTo(page: Page, x: number, y: number): Promise<void> {
  const [px, py] = await page.evaluate(
    ([dx, dy]) => {
      const { camera } = window.bench!.view!;
      const box = document.querySelector('canvas')!.getBoundingClientRect();
      return [
        box.left + box.width / 2 + (dx - camera.x) * camera.zoom,
        box.top + box.height / 2 + (dy - camera.y) * camera.zoom,
      ];
    },
    [x, y],
  );
  await page.mouse.move(px, py, { steps: 5 });
}

async function dragBox(page: Page, from: [number, number], to: [number, number]): Promise<void> {
  await pointTo(page, ...from);
  await page.mouse.down();
  await pointTo(page, ...to);
  await page.mouse.up();
}

/** Twin loupe with a plane, source map, a patch in mid-drag and stop lines, on the courtyard. */
async function takeSources(page: Page, take: (name: string) => Promise<unknown>): Promise<void> {
  const keys = async (...all: string[]) => {
    for (const key of all) await page.keyboard.press(key);
  };
  await keys('Escape', 'Escape');
  await page.locator('canvas').first().focus();
  await look(page, 700, 1150, 0.75);
  await keys('3', 'q');
  await page.evaluate(() => {
    const plane = [
      [26.7, 1383.3],
      [2263.7, 1409.5],
      [1707.1, 874.2],
      [719.1, 869.1],
    ] as const;
    window.bench!.setNext({ plane, sizePx: 150 });
  });
  await page.keyboard.down('Alt');
  await pointTo(page, 900, 1240);
  await page.mouse.down();
  await page.mouse.up();
  await page.keyboard.up('Alt');
  await pointTo(page, 520, 1180);
  await page.waitForTimeout(600);
  await take('loupe');
  await page.evaluate(() => window.bench!.setNext({ plane: null }));
  await keys('Escape', '0');
  await page.getByRole('button', { name: /^Choose Worn face/ }).click();
  await look(page, 1000, 900, 0.38);
  await keys('m');
  await page.waitForFunction(() => window.bench!.state.sourceMap !== null);
  await page.mouse.move(640, 4);
  await settled(page);
  await take('source-map');
  await page.locator('canvas').first().focus();
  await keys('m', 'Escape');
  await look(page, 1400, 480, 0.8);
  await keys('5', 'e');
  await dragBox(page, [1180, 380], [1420, 620]);
  await pointTo(page, 1300, 500);
  await page.mouse.down();
  await pointTo(page, 1490, 420);
  await settled(page);
  await take('patch');
  await page.mouse.up();
  await settled(page);
  await keys('Control+z', 'Escape', 'Escape');
  await look(page, 970, 230, 1.6);
  await keys('e');
  await dragBox(page, [900, 160], [1040, 270]);
  await keys('4');
  await settled(page);
  // From plain bricks, where the rim's other side is none.
  for (const [label, value] of [
    ['Across', '0'],
    ['Down', '-130'],
  ]) {
    const field = page.getByRole('complementary', { name: 'Card' }).getByLabel(label, { exact: true });
    await field.and(page.locator('input')).fill(value);
    await page.keyboard.press('Enter');
    await settled(page);
  }
  await page.getByRole('button', { name: 'Find stop lines' }).click();
  await settled(page);
  await page.mouse.move(640, 4);
  await take('stop-lines');
  await page.locator('canvas').first().focus();
  await keys('Control+z', 'Control+z', 'Escape');
}

/** Grow with its offers, a span of three wires, a sweep and islands. */
async function takeMarks(page: Page, take: (name: string) => Promise<unknown>): Promise<void> {
  const open = async (name: RegExp) => {
    await page.goto(`http://localhost:${port}/`);
    await page.getByRole('button', { name }).click();
    await page.waitForURL(/\/job\//);
    await settled(page);
    await page.locator('canvas').first().focus();
    for (const key of ['Escape', 'Escape']) await page.keyboard.press(key);
    // Marks are made on the untouched photo.
    for (const eye of await page.getByRole('button', { name: /^Hide Layer/ }).all()) await eye.click();
    await page.locator('canvas').first().focus();
  };
  const strokes = async (all: [number, number][][]) => {
    for (const [from, ...rest] of all) {
      await pointTo(page, from[0], from[1]);
      await page.mouse.down();
      for (const [x, y] of rest) await pointTo(page, x, y);
      await page.mouse.up();
      await settled(page);
    }
  };
  await open(/Mill pond/);
  await look(page, 1650, 1240, 0.8);
  await page.evaluate(() => window.bench!.setNext({ sizePx: 36 }));
  await page.keyboard.press('t');
  await strokes([
    [
      [1500, 1250],
      [1650, 1240],
      [1800, 1260],
      [1850, 1300],
    ],
  ]);
  await page.waitForFunction(() => window.bench!.state.offers.length > 0);
  await settled(page);
  await take('grow');
  await open(/Orchard row/);
  await look(page, 1150, 250, 0.8);
  await page.evaluate(() => window.bench!.setNext({ span: { lines: 3, bends: true } }));
  await page.keyboard.press('y');
  for (const [x, y] of [
    [840, 162],
    [1440, 147],
  ]) {
    await pointTo(page, x, y);
    await page.mouse.down();
    await page.mouse.up();
  }
  await page.waitForFunction(() => window.bench!.state.outlook !== null);
  await settled(page);
  await take('span');
  await open(/Harvest day/);
  await look(page, 970, 950, 0.45);
  await page.keyboard.press('e');
  await dragBox(page, [805, 575], [1140, 1400]);
  await page.getByRole('button', { name: 'Avoid it', exact: true }).hover();
  await settled(page);
  await take('beside');
  await page.getByRole('button', { name: 'By itself' }).click();
  await settled(page);
  await take('islands');
  await open(/Studio jug/);
  await page.getByRole('button', { name: 'Sweep the photo' }).click();
  await page.getByLabel('Dark faults').click();
  await page.waitForFunction(
    () => (window.bench!.state.sweep?.faults.length ?? 0) > 0 && window.bench!.state.sweep?.share === null,
  );
  await settled(page);
  await take('sweep');
}

try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const take = (name: string) => page.screenshot({ path: join(root, 'docs', 'screenshots', `${name}.png`) });
  for (let i = 0; i < 100; i++) {
    if (
      await fetch(`http://localhost:${port}/api/health`).then(
        (r) => r.ok,
        () => false,
      )
    )
      break;
    await page.waitForTimeout(100);
  }
  await page.goto(`http://localhost:${port}/`);
  await page.getByRole('button', { name: /Courtyard/ }).click();
  await page.waitForURL(/\/job\//);
  await settled(page);
  await page.getByRole('button', { name: /^Choose Crates/ }).click();
  await page.getByRole('button', { name: /^Choose Crates/ }).dblclick();
  await settled(page);
  await page.mouse.move(640, 4);
  await take('bench');
  await page.locator('canvas').first().focus();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+0');
  await page.keyboard.press(',');
  const divider = (await page.getByRole('slider', { name: /Divider/ }).boundingBox())!;
  await page.mouse.move(divider.x + 12, 300);
  await page.mouse.down();
  await page.mouse.move(divider.x + 112, 300, { steps: 4 });
  await page.mouse.up();
  await settled(page);
  await take('wipe');
  await page.keyboard.press(',');
  await page.getByRole('button', { name: 'Export' }).click();
  await page.waitForTimeout(400);
  await take('export');
  await page.keyboard.press('Escape');
  await takeSources(page, take);
  await page.getByRole('link', { name: 'Shelf' }).click();
  await page.getByRole('button', { name: /Press house/ }).click();
  await page.waitForURL(/\/job\//);
  await settled(page);
  await page.getByRole('button', { name: /^Choose Cable/ }).click();
  await settled(page);
  await page.mouse.move(640, 4);
  await take('steer');
  await page.getByRole('button', { name: /^Choose Sign/ }).click();
  await page.locator('canvas').first().focus();
  await page.keyboard.press('Shift+N');
  await page.waitForFunction(
    () => {
      const candidates = window.bench?.state.tryouts?.candidates ?? [];
      return candidates.length > 5 && candidates.every((c) => c.state === 'ready');
    },
    null,
    { timeout: 180_000 },
  );
  await page.waitForTimeout(2500);
  await take('tryouts');
  await page.keyboard.press('Escape');
  await takeMarks(page, take);
  await page.getByRole('link', { name: 'Shelf' }).click();
  await page.waitForTimeout(2500);
  await take('shelf');
} finally {
  await browser.close();
  server.kill();
}
