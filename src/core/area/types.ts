/** Where a mend works. Coordinates are document pixels; pixel (x, y) covers x…x+1, its centre lies at +0.5. */
export interface Area {
  /** Applied in order: each adds to, or takes from, what the earlier ones marked. */
  readonly shapes: readonly Shape[];
  /** Room added all round (negative: taken away), in pixels, −500…500. */
  readonly marginPx: number;
  /** Width of the soft edge outside the margin, in pixels, 0…500. */
  readonly featherPx: number;
}

export type Shape = StrokeShape | PolygonShape | BoxShape | MaskShape;

export type ShapeOp = 'add' | 'subtract';

/** What a pen's pressure does to a stroke. */
export const pressureTargets = ['size', 'opacity', 'softness'] as const;
export type PressureTarget = (typeof pressureTargets)[number];

/** A brush's path: x, y and pressure 0…1. */
export interface StrokeShape {
  readonly kind: 'stroke';
  readonly op: ShapeOp;
  readonly points: readonly (readonly [x: number, y: number, pressure: number])[];
  readonly radiusPx: number;
  /** 0: fades from the middle; 1: full up to an edge one pixel soft. */
  readonly hardness: number;
  /** What pressure scales: the radius, the coverage or the hardness; absent: the radius. */
  readonly pressureTo?: PressureTarget;
}

/** A closed outline; filled by the non-zero rule, so that a loop drawn twice stays marked. */
export interface PolygonShape {
  readonly kind: 'polygon';
  readonly op: ShapeOp;
  readonly points: readonly (readonly [x: number, y: number])[];
}

export interface BoxShape {
  readonly kind: 'box';
  readonly op: ShapeOp;
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}

/** A picture of coverage whose top left lies at (x, y). */
export interface MaskShape {
  readonly kind: 'mask';
  readonly op: ShapeOp;
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
  readonly maskId: string;
}

/** w×h coverage, 0…255. */
export interface Mask {
  readonly w: number;
  readonly h: number;
  readonly data: Uint8Array;
}

export type MaskLookup = (maskId: string) => Mask | undefined;

export const noMasks: MaskLookup = () => undefined;
