import type { MaskLookup } from '../../core/area';
import type { Placement } from '../../core/methods';
import type { SessionState } from '../session/state';
import type { Camera, Point } from '../viewport/camera';
import type { TileStore } from './tile-store';

/** What the painter reads each frame. */
export interface Scene {
  readonly state: SessionState;
  readonly camera: Camera;
  readonly tiles: TileStore | null;
  readonly preview: ImageBitmap | null;
  readonly masks: MaskLookup;
  /** Pointer on the canvas, in screen pixels; null when it is elsewhere. */
  readonly pointer: Point | null;
  /** What the brush would take, if it is one that takes from somewhere. */
  readonly brush: BrushSight | null;
  readonly loupe: LoupeCanvases | null;
  /** 0…1 across the view. */
  readonly wipeAt: number;
  readonly painting: boolean;
}

/** A brush over a place of the photo, and where its pixels would come from. */
export interface BrushSight {
  readonly target: Point;
  readonly placement: Placement;
}

export interface LoupeCanvases {
  readonly target: HTMLCanvasElement;
  readonly source: HTMLCanvasElement;
  /** Told whenever both were drawn. */
  readonly drawn: () => void;
}
