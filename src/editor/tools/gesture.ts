import type { Shape, ShapeOp } from '../../core/area';
import type { GuideLine } from '../../core/job';
import type { Point } from '../viewport/camera';

export type StrokePoint = readonly [x: number, y: number, pressure: number];

/** What lies under the pointer that can be taken hold of. */
export type Grip =
  | { readonly kind: 'source'; readonly mendId: string }
  /** What turns and scales a source, and where it stood when it was taken hold of. */
  | { readonly kind: 'turn'; readonly mendId: string; readonly x: number; readonly y: number }
  | { readonly kind: 'mend'; readonly mendId: string }
  /** What is marked, to be dragged as a patch. */
  | { readonly kind: 'mark' }
  /** A corner of the mend's plane, or (null) of the one the next mends take. */
  | { readonly kind: 'corner'; readonly mendId: string | null; readonly index: number }
  /** One of the two ends of a guide line. */
  | { readonly kind: 'line-end'; readonly mendId: string; readonly index: number; readonly end: 0 | 1 };

/** What happens to a tool. Points are in the document, in order of time. */
export type GestureEvent =
  | {
      readonly type: 'down';
      readonly point: StrokePoint;
      /** Shift: add to what is marked. Alt: take away, or pick a source. Both: keep what lies in both. */
      readonly shift: boolean;
      readonly alt: boolean;
      readonly grip: Grip | null;
      /** How near counts as the same place, in document pixels. */
      readonly reach?: number;
    }
  | { readonly type: 'move'; readonly points: readonly StrokePoint[] }
  | { readonly type: 'up'; readonly point: StrokePoint }
  /** Enter: what takes several gestures is done. */
  | { readonly type: 'finish' }
  /** Escape, a second finger, a lost pointer, another tool: the gesture is taken back. */
  | { readonly type: 'cancel' };

/** What a tool wants done. The session carries it out. */
export type Effect =
  | {
      readonly kind: 'begin-stroke';
      readonly point: StrokePoint;
      readonly shift: boolean;
      readonly alt: boolean;
    }
  | { readonly kind: 'extend-stroke'; readonly points: readonly StrokePoint[] }
  | { readonly kind: 'end-stroke' }
  | { readonly kind: 'cancel-stroke' }
  | { readonly kind: 'pick-source'; readonly at: Point }
  /** A stroke without a brush. */
  | { readonly kind: 'no-brush' }
  | { readonly kind: 'show-shape'; readonly shape: Shape | null }
  | { readonly kind: 'mark'; readonly shape: Shape; readonly shift: boolean }
  | { readonly kind: 'pull-begin'; readonly at: Point; readonly op: ShapeOp }
  | { readonly kind: 'pull'; readonly dx: number }
  | { readonly kind: 'pull-end' }
  | { readonly kind: 'pull-cancel' }
  | { readonly kind: 'click'; readonly at: Point; readonly op: ShapeOp }
  | { readonly kind: 'show-line'; readonly line: GuideLine | null }
  | { readonly kind: 'line'; readonly line: GuideLine }
  | { readonly kind: 'choose'; readonly mendId: string | null }
  | { readonly kind: 'drag'; readonly grip: Grip; readonly dx: number; readonly dy: number }
  | { readonly kind: 'drop'; readonly grip: Grip; readonly dx: number; readonly dy: number }
  | { readonly kind: 'undrag' };

export interface Step<S> {
  readonly state: S;
  readonly effects: readonly Effect[];
}

/** One pure transition: what a tool is and what happens give what it is next and what is to be done. */
export interface Tool<S extends { readonly is: string }> {
  readonly start: S;
  transition(state: S, event: GestureEvent): Step<S>;
}

/** What a gesture does to what is marked, by the keys that are held. */
export const opOf = ({ shift, alt }: { readonly shift: boolean; readonly alt: boolean }): ShapeOp =>
  alt ? (shift ? 'intersect' : 'subtract') : 'add';

export const stay = <S>(state: S): Step<S> => ({ state, effects: [] });
