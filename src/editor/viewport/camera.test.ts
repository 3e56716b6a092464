import fc from 'fast-check';
import { expect, test } from 'vitest';
import { fitCamera, fitZoom, maxZoom, panBy, stepZoom, toDoc, toScreen, zoomAt } from './camera';

const view = { width: 800, height: 600 };
const photo = { width: 6000, height: 4000 };

test('screen and document points turn into each other', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 0.02, max: 32, noNaN: true }),
      fc.nat(6000),
      fc.nat(4000),
      fc.nat(800),
      fc.nat(600),
      (zoom, x, y, sx, sy) => {
        const camera = { x, y, zoom };
        const back = toScreen(camera, view, toDoc(camera, view, { x: sx, y: sy }));
        expect(Math.hypot(back.x - sx, back.y - sy)).toBeLessThan(1e-6);
      },
    ),
  );
});

test('zooming keeps the point under the pointer, as long as the view stays on the photo', () => {
  const camera = { x: 3000, y: 2000, zoom: 1 };
  for (const factor of [0.5, 1.3, 4, 20]) {
    const at = { x: 500, y: 200 };
    const next = zoomAt(camera, view, photo, at, factor);
    const [a, b] = [toDoc(camera, view, at), toDoc(next, view, at)];
    expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(1e-6);
  }
});

test('zoom ends at 32:1 and at half of fit, however often one turns the wheel', () => {
  let near = fitCamera(photo, view);
  let far = near;
  for (let i = 0; i < 60; i++) {
    near = zoomAt(near, view, photo, { x: 400, y: 300 }, 1.5);
    far = zoomAt(far, view, photo, { x: 400, y: 300 }, 0.6);
  }
  expect(near.zoom).toBe(maxZoom);
  expect(far.zoom).toBeCloseTo(fitZoom(photo, view) / 2);
});

test('the photo cannot be lost by panning', () => {
  const far = panBy({ x: 10, y: 10, zoom: 1 }, photo, 1e6, -1e6);
  expect(far).toEqual({ x: 0, y: 4000, zoom: 1 });
});

test('zoom steps go up and down through the usual values', () => {
  expect(stepZoom(0.8, true)).toBe(1);
  expect(stepZoom(1, true)).toBe(1.5);
  expect(stepZoom(1, false)).toBeCloseTo(2 / 3);
  expect(stepZoom(32, true)).toBe(32);
});
