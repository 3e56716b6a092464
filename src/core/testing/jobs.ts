import type { Area, Shape } from '../area';
import { type Job, type Layer, type Mend, type MethodId, noSteer, noZones, type Source } from '../job';
import type { Raster } from '../raster';

/** Jobs and mends for tests, as short as can be. */

export const boxShape = (x: number, y: number, w: number, h: number): Shape => ({
  kind: 'box',
  op: 'add',
  x,
  y,
  w,
  h,
});

export const strokeShape = (
  points: readonly (readonly [number, number])[],
  radiusPx: number,
  hardness = 1,
): Shape => ({
  kind: 'stroke',
  op: 'add',
  radiusPx,
  hardness,
  points: points.map(([x, y]) => [x, y, 1] as const),
});

export const areaOfShapes = (shapes: readonly Shape[], marginPx = 0, featherPx = 0): Area => ({
  shapes,
  marginPx,
  featherPx,
});

let count = 0;

export function mendOf(
  method: MethodId,
  area: Area,
  source: Source | null = null,
  more: Partial<Mend> = {},
): Mend {
  return {
    id: `m-${++count}`,
    name: method,
    method,
    area,
    source,
    reads: 'below',
    readLayers: [],
    params: {},
    steer: noSteer,
    pending: null,
    stops: [],
    rubbed: null,
    visible: true,
    opacity: 1,
    blend: 'normal',
    tries: [],
    chosenTry: null,
    ...more,
  };
}

export const layerOf = (mends: readonly Mend[], more: Partial<Layer> = {}): Layer => ({
  id: `l-${++count}`,
  name: 'Layer',
  visible: true,
  opacity: 1,
  blend: 'normal',
  mends,
  ...more,
});

export const jobOf = (photo: Raster, layers: readonly Layer[]): Job => ({
  id: 'job',
  title: 'Job',
  photo: {
    name: 'photo.png',
    type: 'image/png',
    width: photo.width,
    height: photo.height,
    depth: photo.depth,
    sha256: '0'.repeat(64),
    pixelsSha256: '0'.repeat(64),
  },
  layers,
  zones: noZones,
  areas: [],
});
