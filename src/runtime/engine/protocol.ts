import type { Patch } from 'immer';
import type { Area, Mask, Shape, StrokeShape } from '../../core/area';
import type { Job, Mend, SourceShift, StopLine, TryPixels } from '../../core/job';
import type {
  Belonging,
  ColourPick,
  Fault,
  Found,
  Island,
  Outlook,
  Scribbles,
  SpanOptions,
  SpanPoint,
  SweepOptions,
} from '../../core/marking';
import type { MatchFigures, SourceMap } from '../../core/match';
import type { FillInput } from '../../core/methods/fill/compute';
import type { Depth, Rect } from '../../core/raster';

/** Which picture is meant: with the mends, or the untouched photo. */
export type Side = 'after' | 'before';

export interface TileRequest {
  readonly side: Side;
  readonly level: number;
  readonly tile: number;
  /** Key of the pixels that the asker already has. */
  readonly have: string | null;
}

export interface TilePixels {
  readonly side: Side;
  readonly level: number;
  readonly tile: number;
  readonly key: string;
  /** In pixels of the level. */
  readonly rect: Rect;
  /** RGBA 8-bit; null when the asker already has these pixels. */
  readonly data: Uint8ClampedArray<ArrayBuffer> | null;
}

export interface PhotoOpened {
  readonly width: number;
  readonly height: number;
  readonly depth: Depth;
  readonly levels: number;
  readonly pixelsSha256: string;
}

export type MendState =
  | { readonly state: 'failed'; readonly reason: string }
  | { readonly state: 'stale' | 'missing' };

export interface FlatFormat {
  readonly kind: 'png' | 'jpeg' | 'webp';
  /** 1…100; not for PNG. */
  readonly quality: number;
}

export type EngineProtocol = {
  /** Decodes a photo. Meanwhile tells a small picture of it, as soon as there is one. */
  open: {
    request: { file: Blob; wantHash: boolean };
    reply: PhotoOpened;
    progress: { preview: ImageBitmap };
  };
  setJob: { request: { job: Job }; reply: null };
  patchJob: { request: { patches: readonly Patch[] }; reply: null };
  /** Shows changes on top of the job without making them part of it; null ends that. */
  previewJob: { request: { patches: readonly Patch[] | null }; reply: null };
  addPixels: { request: { tries: TryPixels[]; masks: { id: string; mask: Mask }[] }; reply: null };
  tiles: { request: { wanted: TileRequest[] }; reply: TilePixels[] };
  /** Begins a stroke: a mend that is not yet part of the job, on top of a layer. */
  beginStroke: { request: { mend: Mend; layerId: string }; reply: null };
  /** Lengthens it; the reply holds the parts of the picture that changed, at the level asked for. */
  extendStroke: {
    request: { points: readonly (readonly [number, number, number])[]; level: number };
    reply: TilePixels[];
  };
  /** When the hand rests: parts of the stroke that were shown as they were before its latest points. */
  settleStroke: { request: { level: number }; reply: TilePixels[] };
  endStroke: { request: null; reply: null };
  /** Strokes that nobody sees, so that the first one that somebody does takes no longer than the others. */
  rehearse: { request: { job: Job; mends: readonly Mend[] }; reply: null };
  /** What is not as it should be, by mend. */
  mendStates: { request: null; reply: Record<string, MendState> };
  fillInput: {
    request: { mend: Mend; tryId: string | null };
    reply: { input: FillInput; inputKey: string };
  };
  /** Which of these tries' pixels are there. */
  heldTries: { request: { ids: string[] }; reply: string[] };
  /** Which of a mend's tries were computed from something else than they would be now. */
  staleTries: { request: { mend: Mend }; reply: string[] };
  findSources: { request: { mend: Mend }; reply: SourceShift[] };
  sourceMap: { request: { mend: Mend }; reply: SourceMap };
  matchFigures: { request: { mend: Mend }; reply: MatchFigures | null };
  likelyStops: { request: { mend: Mend; isAsked: boolean }; reply: StopLine[] };
  /** What has nearly the colour at a point; on a smaller picture while a hand moves. */
  pickColour: { request: { pick: ColourPick; level: number }; reply: Found | null };
  growScribbles: { request: { scribbles: Scribbles }; reply: Found | null };
  /** One stroke for each line that clicks lie on. */
  findSpan: { request: { clicks: readonly SpanPoint[]; options: SpanOptions }; reply: StrokeShape[] };
  /** What probably goes with an area. */
  belongings: { request: { area: Area }; reply: Belonging[] };
  /** What the area of a mend, of the job or to be made, is like. */
  outlook: { request: { mend: Mend }; reply: Outlook | null };
  islands: { request: { area: Area; cuts: readonly Shape[] }; reply: Island[] };
  sweep: {
    request: { options: SweepOptions; within: Area | null };
    reply: Fault[];
    progress: { share: number };
  };
  stopSweep: { request: null; reply: null };
  pickPaint: { request: { x: number; y: number; radiusPx: number }; reply: Record<string, number> };
  /** A part of the picture, at most `maxSidePx` long, as an encoded JPEG; with a mend of the job as it would be. */
  crop: { request: { side: Side; rect: Rect; maxSidePx: number; instead?: Mend }; reply: Blob };
  flatten: { request: FlatFormat; reply: Uint8Array<ArrayBuffer>; progress: { share: number } };
};
