/** Where the view looks: the document point at the middle of the canvas, and screen pixels per document pixel. */
export interface Camera {
  readonly x: number;
  readonly y: number;
  readonly zoom: number;
}

export interface Size {
  readonly width: number;
  readonly height: number;
}

export interface Point {
  readonly x: number;
  readonly y: number;
}

export const maxZoom = 32;
const roomPx = 24;

/** The zoom at which the whole photo is seen. */
export function fitZoom(photo: Size, view: Size): number {
  const z = Math.min((view.width - 2 * roomPx) / photo.width, (view.height - 2 * roomPx) / photo.height);
  return Math.min(maxZoom, Math.max(0.005, z));
}

export const fitCamera = (photo: Size, view: Size): Camera => ({
  x: photo.width / 2,
  y: photo.height / 2,
  zoom: fitZoom(photo, view),
});

export const toDoc = (c: Camera, view: Size, screen: Point): Point => ({
  x: c.x + (screen.x - view.width / 2) / c.zoom,
  y: c.y + (screen.y - view.height / 2) / c.zoom,
});

export const toScreen = (c: Camera, view: Size, doc: Point): Point => ({
  x: (doc.x - c.x) * c.zoom + view.width / 2,
  y: (doc.y - c.y) * c.zoom + view.height / 2,
});

/** Zooms so that the document point under `at` stays there. Never below half of fit, never above 32:1. */
export function zoomAt(c: Camera, view: Size, photo: Size, at: Point, factor: number): Camera {
  const least = Math.min(1, fitZoom(photo, view)) / 2;
  const zoom = Math.min(maxZoom, Math.max(least, c.zoom * factor));
  const fixed = toDoc(c, view, at);
  return keepNear(
    { x: fixed.x - (at.x - view.width / 2) / zoom, y: fixed.y - (at.y - view.height / 2) / zoom, zoom },
    photo,
  );
}

export const panBy = (c: Camera, photo: Size, dx: number, dy: number): Camera =>
  keepNear({ ...c, x: c.x - dx / c.zoom, y: c.y - dy / c.zoom }, photo);

/** The middle of the view stays on the photo, so that it cannot be lost. */
function keepNear(c: Camera, photo: Size): Camera {
  return {
    zoom: c.zoom,
    x: Math.min(photo.width, Math.max(0, c.x)),
    y: Math.min(photo.height, Math.max(0, c.y)),
  };
}

/** The next of the usual zoom steps, up or down. */
export function stepZoom(zoom: number, up: boolean): number {
  const steps = [
    1 / 64,
    1 / 32,
    1 / 16,
    1 / 8,
    1 / 6,
    1 / 4,
    1 / 3,
    1 / 2,
    2 / 3,
    1,
    1.5,
    2,
    3,
    4,
    6,
    8,
    12,
    16,
    24,
    32,
  ];
  if (up) return steps.find((s) => s > zoom * 1.001) ?? maxZoom;
  return steps.findLast((s) => s < zoom * 0.999) ?? steps[0];
}
