import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { type Browser, chromium, type Page } from '@playwright/test';
import type { Session } from '../src/editor';

declare global {
  interface Window {
    bench?: Session;
  }
}

const port = 4333;
const root = join(import.meta.dirname, '..');

/** Runs something against the built application in a real browser, and ends both. */
export async function inBrowser<T>(
  work: (page: Page, url: string, browser: Browser) => Promise<T>,
): Promise<T> {
  if (!existsSync(join(root, '.next', 'BUILD_ID')))
    throw new Error('The application is not built: run npm run build first.');
  const server = spawn(
    process.execPath,
    ['node_modules/next/dist/bin/next', 'start', '--port', String(port)],
    { cwd: root, stdio: 'ignore' },
  );
  const url = `http://localhost:${port}`;
  let browser: Browser | null = null;
  try {
    for (let i = 0; i < 100; i++) {
      if (
        await fetch(`${url}/api/health`).then(
          (r) => r.ok,
          () => false,
        )
      )
        break;
      await new Promise((r) => setTimeout(r, 100));
    }
    browser = await chromium.launch({
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    });
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    page.setDefaultTimeout(120_000);
    return await work(page, url, browser);
  } finally {
    await browser?.close();
    server.kill();
  }
}

export async function takeIn(page: Page, url: string, file: string): Promise<void> {
  await page.goto(url);
  await page.getByLabel('Photos or job files').setInputFiles(file);
  await page.waitForURL(/\/job\//);
  await settled(page);
}

export async function settled(page: Page): Promise<void> {
  await page.waitForFunction(
    () => window.bench?.isOpen && window.bench.view?.settled && !window.bench.unkept && !window.bench.busy,
  );
}
