import type { Grid } from './grid';
import type { Vec } from './mesh';

/** What is rendered in one go. */
export type Pass =
  | { readonly is: 'picture'; readonly cluttered: boolean }
  /** The thing white, everything else black: its mask. */
  | { readonly is: 'mask'; readonly thing: string }
  /** Black things in white fog: distance from the camera, {@link fogDistance} metres a factor of e. */
  | { readonly is: 'depth'; readonly cluttered: boolean };

export const fogDistance = 12;

/** The camera of a scene, as the renderer has it: y up, z away from the viewer, 3:2. */
export interface CameraPose {
  readonly at: Vec;
  readonly lookAt: Vec;
  /** Horizontal angle of view in degrees. */
  readonly angle: number;
}

export interface Lens {
  /** Light is rendered at half its strength, to keep headroom for what is brighter than white: 2 is neutral. */
  readonly exposure: number;
  readonly balance: readonly [number, number, number];
  readonly vignette: number;
  readonly contrast: number;
  readonly grain: number;
  readonly seed: number;
  /** Focus at this distance in scene units; the circle of confusion in pixels (2400 wide) of something infinitely far. */
  readonly focus?: { readonly distance: number; readonly farPx: number };
  /** 0: black and white. */
  readonly colour?: number;
}

/** Damage to a finished print, laid over the photograph: it hides nothing that is not known. */
export interface Fault {
  readonly id: string;
  readonly says: string;
  /** 0…1 a pixel. */
  readonly cover: Grid;
  /** Encoded grey of the damage. */
  readonly tone: number;
}

/** Sizes known only once the maps are made, in scene units. */
export type Measures = Readonly<Record<string, number>>;

export interface Thing {
  readonly id: string;
  readonly says: string;
}

/** A made-up photograph: how it is made and what is known about it. */
export interface Scene {
  readonly id: string;
  readonly order: number;
  readonly title: string;
  readonly caption: string;
  /** What a client asked for. */
  readonly asked: string;
  readonly things: readonly Thing[];
  readonly camera: CameraPose;
  readonly lens: Lens;
  /** Flat surfaces, four corners each, in scene units. */
  readonly planes: readonly { readonly id: string; readonly corners: readonly [Vec, Vec, Vec, Vec] }[];
  /** Straight lines that run behind unwanted things. */
  readonly lines: readonly { readonly id: string; readonly from: Vec; readonly to: Vec }[];
  /** For prints: what has happened to the paper. Such a scene has no other unwanted things. */
  readonly faults?: (w: number, h: number) => Fault[];
  /** Writes generated maps and meshes into a folder that the renderer reads. @returns their measures, for `describe` */
  prepare(folder: string): Measures;
  /** The scene in the renderer's language, without camera. */
  describe(pass: Pass, measures: Measures): string;
}

/** Where a point of the scene lies in the picture, in pixels. */
export function project(
  { at, lookAt, angle }: CameraPose,
  point: Vec,
  width: number,
  height: number,
): [number, number] {
  const sub = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
  const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const norm = (a: Vec): Vec => {
    const l = Math.sqrt(dot(a, a));
    return [a[0] / l, a[1] / l, a[2] / l];
  };
  const forward = norm(sub(lookAt, at));
  // The renderer's axes are left-handed: right is up × forward.
  const right = norm([forward[2], 0, -forward[0]]);
  const up: Vec = [
    forward[1] * right[2] - forward[2] * right[1],
    forward[2] * right[0] - forward[0] * right[2],
    forward[0] * right[1] - forward[1] * right[0],
  ];
  const d = sub(point, at);
  const depth = dot(d, forward);
  const focal = width / 2 / Math.tan((angle * Math.PI) / 360);
  return [width / 2 + (focal * dot(d, right)) / depth, height / 2 - (focal * dot(d, up)) / depth];
}

/** Renderer text of the camera. */
export const describeCamera = ({ at, lookAt, angle }: CameraPose): string =>
  `camera{location <${at.join()}> right x*1.5 up y angle ${angle} look_at <${lookAt.join()}>}`;
