import {
  type AnyObjectSchema,
  array,
  boolean,
  lazy,
  mixed,
  number,
  object,
  string,
  ValidationError,
} from 'yup';
import { type Area, featherSides, pressureTargets, type Shape, shapeOps } from '../area';
import { blendModes } from '../blend';
import { InputError } from '../errors';
import { methods, type ParameterDefinition } from '../methods';
import { maxSidePx } from '../raster';
import {
  type Job,
  type Mend,
  type MethodId,
  methodIds,
  mostGuideLines,
  mostNamedAreas,
  mostStopLines,
  noSteer,
  noZones,
  readings,
  type Zones,
} from './types';

/** The one schema for mends: job files, sheets for scripts and the browser's store are all checked by it. */

export const farPx = 8 * maxSidePx;
const coordinate = () => number().required().min(-farPx).max(farPx);
const side = () => number().required().min(0).max(farPx);
const op = () => string().oneOf(shapeOps).default('add');
const id = () =>
  string()
    .required()
    .matches(
      /^[\w-]{1,64}$/,
      ({ path }: { path: string }) => `${path} must be 1 to 64 letters, digits, - or _`,
    );

const tuple = (least: number, most: number) =>
  mixed<number[]>()
    .required()
    .test(
      'point',
      ({ path }) => `${path} must be a list of ${least === most ? least : `${least} to ${most}`} numbers`,
      (value) =>
        Array.isArray(value) &&
        value.length >= least &&
        value.length <= most &&
        value.every((v) => Number.isFinite(v) && Math.abs(v) <= farPx),
    );

export const shapes = {
  stroke: object({
    kind: string().oneOf(['stroke']).required(),
    op: op(),
    points: array(tuple(2, 3)).required().min(1).max(200_000),
    radiusPx: number().required().min(0.25).max(4000),
    hardness: number().min(0).max(1).default(1),
    pressureTo: string().oneOf(pressureTargets),
  }).noUnknown(),
  polygon: object({
    kind: string().oneOf(['polygon']).required(),
    op: op(),
    points: array(tuple(2, 2)).required().min(3).max(200_000),
  }).noUnknown(),
  box: object({
    kind: string().oneOf(['box']).required(),
    op: op(),
    x: coordinate(),
    y: coordinate(),
    w: side(),
    h: side(),
  }).noUnknown(),
  ellipse: object({
    kind: string().oneOf(['ellipse']).required(),
    op: op(),
    x: coordinate(),
    y: coordinate(),
    w: side(),
    h: side(),
  }).noUnknown(),
  mask: object({
    kind: string().oneOf(['mask']).required(),
    op: op(),
    x: coordinate(),
    y: coordinate(),
    w: side(),
    h: side(),
    maskId: id(),
  }).noUnknown(),
};

/** A shape of one of several kinds, told apart by `kind`. */
export const shapeOneOf = (kinds: Readonly<Record<string, AnyObjectSchema>>) =>
  lazy((value: unknown) => {
    const kind = (value as { kind?: string } | null)?.kind;
    if (kind && Object.hasOwn(kinds, kind)) return kinds[kind];
    return object({ kind: string().oneOf(Object.keys(kinds)).required() }) as AnyObjectSchema;
  });

/** What an area in a job and an area in a sheet have in common. */
export const areaParts = {
  marginPx: number().min(-500).max(500).default(0),
  featherPx: number().min(0).max(500).default(0),
  featherSide: string().oneOf(featherSides),
  smoothPx: number().min(0).max(50),
  fillHoles: boolean(),
  crumbPx: number().min(0).max(200),
};

const areaSchema = lazy(() =>
  object({
    ...areaParts,
    shapes: array(shapeOneOf(shapes)).required().max(10_000),
    guard: array(shapeOneOf(drawnShapes)).max(10_000),
  }).noUnknown(),
);

const point = tuple(2, 2);

const sourceSchema = object({
  dx: number().required().integer().min(-farPx).max(farPx),
  dy: number().required().integer().min(-farPx).max(farPx),
  turnDeg: number().min(-180).max(180),
  scale: number().min(0.1).max(10),
  mirror: boolean(),
  about: lazy((value: unknown) => (value === undefined ? mixed().notRequired() : point)),
}).noUnknown();

const stopSchema = object({
  points: array(tuple(2, 2)).required().min(2).max(10_000),
  widthPx: number().required().min(0).max(4000),
}).noUnknown();

const { mask: _, ...drawnShapes } = shapes;

/** Zones, and what is rubbed away: nothing is done to them as a whole. */
const plainArea = (kinds: Readonly<Record<string, AnyObjectSchema>>) =>
  object({
    shapes: array(shapeOneOf(kinds)).required().min(1).max(10_000),
    marginPx: number().oneOf([0]).default(0),
    featherPx: number().oneOf([0]).default(0),
  }).noUnknown();

const zoneParts = (kinds: Readonly<Record<string, AnyObjectSchema>>) => ({
  allow: plainArea(kinds).nullable().default(null),
  avoid: plainArea(kinds).nullable().default(null),
});

const zonesSchema = object(zoneParts(shapes)).noUnknown().default(noZones);

const railSchema = object({
  angleDeg: number().required().min(-90).max(90),
  slackPx: number().required().min(0).max(farPx),
}).noUnknown();

const steerSchema = (kinds: Readonly<Record<string, AnyObjectSchema>>) =>
  object({
    ...zoneParts(kinds),
    rail: railSchema.nullable().default(null),
    plane: array(tuple(2, 2)).min(4).max(4).nullable().default(null),
    lines: array(tuple(4, 4)).max(mostGuideLines).default([]),
  })
    .noUnknown()
    .default(noSteer);

const parameter = (p: ParameterDefinition) => number().min(p.min).max(p.max);

const paramsSchema = (method: MethodId | undefined) =>
  object(Object.fromEntries((method ? methods[method].parameters : []).map((p) => [p.key, parameter(p)])))
    .noUnknown(({ unknown, path }: { unknown: string; path: string }) => `${path} has no ${unknown}`)
    .default({});

const seed = () => number().required().integer().min(0).max(4294967295);
const title = () => string().required().max(200);

/** What a mend in a job and a mend in a sheet have in common; a sheet's zones are drawn, for it holds no masks of its own. */
export const mendParts = (method: MethodId | undefined, isSheet: boolean) => ({
  method: string().oneOf(methodIds).required(),
  source: sourceSchema.nullable().default(null),
  reads: string().oneOf(readings).default('below'),
  readLayers: array(id()).max(1000).default([]),
  params: paramsSchema(method),
  steer: steerSchema(isSheet ? drawnShapes : shapes),
  stops: array(stopSchema).max(mostStopLines).default([]),
  rubbed: plainArea(drawnShapes).nullable().default(null),
  visible: boolean().default(true),
  opacity: number().min(0).max(1).default(1),
  blend: string().oneOf(blendModes).default('normal'),
});

const mendSchema = lazy((value: unknown) =>
  object({
    ...mendParts(knownMethod(value), false),
    id: id(),
    name: title(),
    area: areaSchema,
    pending: lazy((value: unknown) =>
      value === null || value === undefined ? mixed<Area>().nullable().default(null) : areaSchema,
    ),
    tries: array(
      object({
        id: id(),
        seed: seed(),
        params: paramsSchema('fill').optional().default(undefined),
      }).noUnknown(),
    )
      .max(1000)
      .default([]),
    chosenTry: id().nullable().notRequired().default(null),
  }).noUnknown(),
);

export function knownMethod(value: unknown): MethodId | undefined {
  const method = (value as { method?: string } | null)?.method;
  return methodIds.find((known) => known === method);
}

const hex = () =>
  string()
    .required()
    .matches(/^[0-9a-f]{64}$/);

const jobSchema = object({
  id: id(),
  title: title(),
  photo: object({
    name: string().required().max(1000),
    type: string().required().max(100),
    width: number().required().integer().min(1).max(maxSidePx),
    height: number().required().integer().min(1).max(maxSidePx),
    depth: number().oneOf([8, 16]).required(),
    sha256: hex(),
    pixelsSha256: hex(),
  })
    .noUnknown()
    .required(),
  zones: zonesSchema,
  areas: array(object({ id: id(), name: title(), area: areaSchema }).noUnknown())
    .max(mostNamedAreas)
    .default([]),
  layers: array(
    object({
      id: id(),
      name: title(),
      visible: boolean().default(true),
      opacity: number().min(0).max(1).default(1),
      blend: string().oneOf(blendModes).default('normal'),
      mends: array(mendSchema).required().max(100_000),
    }).noUnknown(),
  )
    .required()
    .min(1)
    .max(1000),
}).noUnknown();

interface Checker {
  validateSync(value: unknown, options: { strict: boolean; abortEarly: boolean }): unknown;
  cast(value: unknown): unknown;
}

/** Checks a value that came from outside. @throws InputError `schema` that names the place and what was expected. */
export function checkWith<T>(schema: Checker, value: unknown, what: string): T {
  try {
    schema.validateSync(value, { strict: true, abortEarly: true });
  } catch (error) {
    if (error instanceof ValidationError) throw new InputError('schema', `${what}: ${error.message}.`);
    throw error;
  }
  return schema.cast(value) as T;
}

/** A job from a file or the store, complete and checked, with unique ids. */
export function checkJob(value: unknown): Job {
  const job = checkWith<Job>(jobSchema as unknown as Checker, value, 'This job');
  const seen = new Set<string>();
  for (const layer of job.layers) {
    unique(seen, layer.id);
    for (const mend of layer.mends) unique(seen, mend.id);
  }
  for (const named of job.areas) unique(seen, named.id);
  return {
    ...job,
    zones: pressedZones(job.zones),
    areas: job.areas.map((named) => ({ ...named, area: pressed(named.area) })),
    layers: job.layers.map((layer) => ({ ...layer, mends: layer.mends.map(withPressure) })),
  };
}

export const checkMend = (value: unknown, what: string): Mend =>
  withPressure(checkWith<Mend>(mendSchema as unknown as Checker, value, what));

/** Points of a stroke may come without pressure; it is full then. */
const withPressure = (mend: Mend): Mend => ({
  ...mend,
  area: pressed(mend.area),
  steer: { ...mend.steer, ...pressedZones(mend.steer) },
  pending: mend.pending && pressed(mend.pending),
  rubbed: mend.rubbed && pressed(mend.rubbed),
});

const pressedZones = ({ allow, avoid }: Zones): Zones => ({
  allow: allow && pressed(allow),
  avoid: avoid && pressed(avoid),
});

const pressed = (area: Area): Area => ({
  ...area,
  shapes: area.shapes.map(pressedShape),
  ...(area.guard && { guard: area.guard.map(pressedShape) }),
});

const pressedShape = (shape: Shape): Shape =>
  shape.kind === 'stroke'
    ? { ...shape, points: shape.points.map(([x, y, pressure]) => [x, y, pressure ?? 1] as const) }
    : shape;

function unique(seen: Set<string>, key: string): void {
  if (seen.has(key)) throw new InputError('schema', `This job: the id ${key} is used twice.`);
  seen.add(key);
}
