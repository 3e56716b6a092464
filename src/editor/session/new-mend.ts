import { nanoid } from 'nanoid';
import type { Area, Shape } from '../../core/area';
import {
  countMends,
  type Job,
  type Layer,
  type Mend,
  type MethodId,
  noSteer,
  type Source,
  type Try,
} from '../../core/job';
import { methods } from '../../core/methods';
import type { NextMend } from './state';

export const newId = (): string => nanoid(12);

/** Seeds count up from 1, so that a job's tries can be told apart and computed again. */
export const newTry = (mend: { tries: readonly Try[] } | null): Try => ({
  id: newId(),
  seed: 1 + (mend?.tries.reduce((n, t) => Math.max(n, t.seed), 0) ?? 0),
});

export const newLayer = (job: Job): Layer => ({
  id: newId(),
  name: `Layer ${job.layers.length + 1}`,
  visible: true,
  opacity: 1,
  blend: 'normal',
  mends: [],
});

/** A mend with the settings that the next one starts with. */
export function newMend(job: Job, method: MethodId, area: Area, source: Source | null, next: NextMend): Mend {
  const definition = methods[method];
  const first = definition.scope === 'kept' ? newTry(null) : null;
  return {
    id: newId(),
    name: `${definition.title} ${countMends(job) + 1}`,
    method,
    area,
    source,
    reads: next.reads,
    readLayers: next.readLayers,
    params: Object.fromEntries(definition.parameters.map((p) => [p.key, p.initial])),
    steer: noSteer,
    pending: null,
    stops: [],
    rubbed: null,
    visible: true,
    opacity: next.opacity,
    blend: next.blend,
    tries: first ? [first] : [],
    chosenTry: first?.id ?? null,
  };
}

/** An area that takes one more shape and stays as it was set; a first one has the margin and feather that the next mend starts with. */
export const addShape = (area: Area | null, shape: Shape, next: NextMend): Area => ({
  ...(area ?? { marginPx: next.marginPx, featherPx: next.featherPx }),
  shapes: [...(area?.shapes ?? []), shape],
});

/** Some of an area's shapes, treated as before; null when there are none. */
export function areaOf(area: Area, wanted: (shape: Shape) => boolean): Area | null {
  const shapes = area.shapes.filter(wanted);
  if (shapes.length === area.shapes.length) return area;
  return shapes.length > 0 ? { ...area, shapes } : null;
}

/** Coordinates are kept to a sixteenth of a pixel: finer than any pointer, and half the bytes. */
export const toSixteenth = (v: number): number => Math.round(v * 16) / 16;
