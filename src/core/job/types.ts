import type { Area } from '../area';
import type { BlendMode } from '../blend';
import type { PlanePoint } from '../geometry';
import type { Depth } from '../raster';

/** One photo with all the work on it. Plain data: it goes through JSON unchanged, and is never mutated. */
export interface Job {
  readonly id: string;
  readonly title: string;
  readonly photo: PhotoFacts;
  /** From the bottom up. At least one. */
  readonly layers: readonly Layer[];
  /** For every mend that finds its own sources. */
  readonly zones: Zones;
  /** Marks that were kept, to be used again by any mend. */
  readonly areas: readonly NamedArea[];
}

export interface NamedArea {
  readonly id: string;
  readonly name: string;
  readonly area: Area;
}

export const mostNamedAreas = 500;

/** Where sources may come from. */
export interface Zones {
  /** Only from here. Null: from anywhere. */
  readonly allow: Area | null;
  /** Never from here. */
  readonly avoid: Area | null;
}

/** Sources keep to one direction from their targets: to the same row, or to the same focal plane. */
export interface Rail {
  /** Clockwise on screen from "sideways", in degrees, −90…90; along the plane's first side where there is a plane. */
  readonly angleDeg: number;
  /** How far off the direction a source may lie, in pixels. */
  readonly slackPx: number;
}

/** An edge that runs on through the area: two points on it, in document pixels. */
export type GuideLine = readonly [x0: number, y0: number, x1: number, y1: number];

/** What was laid down, on the photo, about where a mend's sources come from. Its allow zone goes before the job's;
 *  avoid zones add up. */
export interface Steer extends Zones {
  readonly rail: Rail | null;
  /** Four corners of something flat and rectangular, in order round it, in document pixels. */
  readonly plane: readonly PlanePoint[] | null;
  readonly lines: readonly GuideLine[];
}

export const mostGuideLines = 40;

export const noZones: Zones = { allow: null, avoid: null };
export const noSteer: Steer = { ...noZones, rail: null, plane: null, lines: [] };

export interface PhotoFacts {
  readonly name: string;
  /** Media type of the original file. */
  readonly type: string;
  /** Size after EXIF orientation. */
  readonly width: number;
  readonly height: number;
  readonly depth: Depth;
  /** Of the original file, lower-case hex. */
  readonly sha256: string;
  /** Digest of the decoded pixels (RGBA rows, in strips), lower-case hex: tells whether another decoder gives the same picture. */
  readonly pixelsSha256: string;
}

export interface Layer {
  readonly id: string;
  readonly name: string;
  readonly visible: boolean;
  /** 0…1 */
  readonly opacity: number;
  readonly blend: BlendMode;
  /** In the order in which they are laid on. */
  readonly mends: readonly Mend[];
}

export const methodIds = ['tap', 'fill', 'clone', 'heal', 'patch', 'paint', 'knit'] as const;
export type MethodId = (typeof methodIds)[number];

/** Everything below the mend; the photo with this layer's mends below it only; the photo with what lies below in chosen
 *  layers; or the untouched photo. */
export const readings = ['below', 'layer', 'chosen', 'photo'] as const;
export type Reads = (typeof readings)[number];

/** From target to source: the pixel for (x, y) is taken from (x + dx, y + dy). Whole pixels. */
export interface SourceShift {
  readonly dx: number;
  readonly dy: number;
}

/** A shift, and what else is done to the source on its way: turned, scaled and mirrored about one point. Where the mend
 *  has a plane, all of it happens within the plane: the shift carries that one point, the rest follows the perspective. */
export interface Source extends SourceShift {
  /** Clockwise on screen, −180…180; absent: 0. */
  readonly turnDeg?: number;
  /** How much larger it is laid on than it is at the source, 0.1…10; absent: 1. */
  readonly scale?: number;
  /** Left and right exchanged; absent: no. */
  readonly mirror?: boolean;
  /** The target point that the shift carries and that the rest turns about; absent: the area's middle. */
  readonly about?: PlanePoint;
}

/** A stretch along which tone is not blended: a polyline, and how far on both sides of it the rim is let go. */
export interface StopLine {
  readonly points: readonly PlanePoint[];
  readonly widthPx: number;
}

export const mostStopLines = 200;

/** One repair. Everything that its pixels depend on is here, or in the pixels below it. */
export interface Mend {
  readonly id: string;
  readonly name: string;
  readonly method: MethodId;
  readonly area: Area;
  /** Needed by clone, heal and patch; tap finds its own when there is none; fill and paint use none. */
  readonly source: Source | null;
  readonly reads: Reads;
  /** The layers that are read when they are chosen one by one. Those that are gone count for nothing. */
  readonly readLayers: readonly string[];
  /** By the method's own parameter list. */
  readonly params: Readonly<Record<string, number>>;
  readonly steer: Steer;
  /** What beside it is still to go, and will be mended after it: it is neither drawn from nor continued into the area. */
  readonly pending: Area | null;
  /** For methods that fit tone. */
  readonly stops: readonly StopLine[];
  /** Where what lies below shows through again; softly where its shapes are soft. */
  readonly rubbed: Area | null;
  readonly visible: boolean;
  /** 0…1 */
  readonly opacity: number;
  readonly blend: BlendMode;
  /** Finished or wanted candidates of a method with a choice in it; their pixels are kept beside the job. */
  readonly tries: readonly Try[];
  readonly chosenTry: string | null;
}

export interface Try {
  readonly id: string;
  /** Whole number 0…2³²−1. */
  readonly seed: number;
  /** Settings of its own, that go before the mend's. */
  readonly params?: Readonly<Record<string, number>>;
}

/** The pixels of a finished try. Immutable, referenced by the try's id. */
export interface TryPixels {
  readonly tryId: string;
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
  /** RGBA, photo depth. */
  readonly data: Uint8Array | Uint16Array;
  /** What it was computed from: area, parameters and the pixels it read. Tells when it is out of date. */
  readonly inputKey: string;
}

export type TryLookup = (tryId: string) => TryPixels | undefined;
