import { test as base, expect } from '@playwright/test';

/** A journey through the application in which nothing goes wrong unseen: no error that nobody caught, and nothing that the content
 *  security policy forbids, which may be waited for without end. */
export const test = base.extend<{ watched: null }>({
  watched: [
    async ({ page }, use) => {
      const wrong: string[] = [];
      page.on('pageerror', (error) => wrong.push(error.message));
      page.on('console', (said) => {
        if (said.type() === 'error' && said.text().includes('Content Security Policy'))
          wrong.push(said.text());
      });
      await use(null);
      expect(wrong).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };
