/** Where a mend works. Coordinates are document pixels; pixel (x, y) covers x…x+1, its centre lies at +0.5. */
export interface Area {
  /** Applied in order: each adds to what the earlier ones marked, takes from it, or keeps only what lies in both. */
  readonly shapes: readonly Shape[];
  /** Room added all round (negative: taken away), in pixels, −500…500. */
  readonly marginPx: number;
  /** Width of the soft edge, in pixels, 0…500. */
  readonly featherPx: number;
  /** On which side of the margin's edge it is soft; absent: outside. */
  readonly featherSide?: FeatherSide;
  /** How far the outline is evened out, as a Gaussian's deviation in pixels, 0…50; absent: 0. */
  readonly smoothPx?: number;
  /** Whether what lies enclosed is marked too; absent: no. */
  readonly fillHoles?: boolean;
  /** Parts of fewer pixels than a square of this side are dropped, 0…200; absent: 0. */
  readonly crumbPx?: number;
  /** What margin and soft edge never cross. */
  readonly guard?: readonly Shape[];
}

export const featherSides = ['outside', 'inside', 'both'] as const;
export type FeatherSide = (typeof featherSides)[number];

export type Shape = StrokeShape | PolygonShape | BoxShape | EllipseShape | MaskShape;

export const shapeOps = ['add', 'subtract', 'intersect'] as const;
export type ShapeOp = (typeof shapeOps)[number];

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

/** The ellipse that touches the four sides of a box. */
export interface EllipseShape extends Omit<BoxShape, 'kind'> {
  readonly kind: 'ellipse';
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
