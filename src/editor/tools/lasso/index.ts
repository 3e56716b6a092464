import type { PolygonShape, ShapeOp } from '../../../core/area';
import { opOf, type Step, stay, type Tool } from '../gesture';

type Points = readonly (readonly [number, number])[];

export type LassoState =
  | { readonly is: 'idle' }
  | {
      readonly is: 'drawing';
      readonly points: Points;
      readonly op: ShapeOp;
      readonly more: boolean;
      readonly began: number;
    }
  /** Corners were clicked: straight lines lead from one to the next, until it is closed. */
  | { readonly is: 'corners'; readonly points: Points; readonly op: ShapeOp; readonly more: boolean };

const idle: LassoState = { is: 'idle' };
const hide = { kind: 'show-shape', shape: null } as const;

const shapeOf = ({ op, points }: { op: ShapeOp; points: Points }): PolygonShape => ({
  kind: 'polygon',
  op,
  points,
});

/** Shorter than this, a drag is a click, in document pixels. */
const clickPx = 3;

function closed(state: { op: ShapeOp; points: Points; more: boolean }): Step<LassoState> {
  if (state.points.length < 3) return { state: idle, effects: [hide] };
  return { state: idle, effects: [hide, { kind: 'mark', shape: shapeOf(state), shift: state.more }] };
}

/** Drawing round a thing. Let go after a drag: the outline closes by itself. Clicks put down corners with straight
 *  lines between them; it closes on the first corner again, on the last one twice, or when it is finished. */
export const lassoTool: Tool<LassoState> = {
  start: idle,
  transition(state, event) {
    switch (state.is) {
      case 'idle':
        if (event.type !== 'down') return stay(state);
        return {
          state: {
            is: 'drawing',
            points: [[event.point[0], event.point[1]]],
            op: opOf(event),
            more: event.shift && !event.alt,
            began: 0,
          },
          effects: [],
        };
      case 'corners':
        switch (event.type) {
          case 'down': {
            const [x, y] = event.point;
            const [first, last] = [state.points[0], state.points[state.points.length - 1]];
            const onto = (p: readonly [number, number]) =>
              Math.hypot(p[0] - x, p[1] - y) <= (event.reach ?? clickPx);
            if (onto(first) || onto(last)) return closed(state);
            const points = [...state.points, [x, y] as const];
            const next = { ...state, is: 'drawing', points, began: points.length - 1 } as const;
            return { state: next, effects: [{ kind: 'show-shape', shape: shapeOf(next) }] };
          }
          case 'finish':
            return closed(state);
          case 'cancel':
            return { state: idle, effects: [hide] };
          default:
            return stay(state);
        }
      case 'drawing':
        switch (event.type) {
          case 'move': {
            const points = [...state.points, ...event.points.map(([x, y]) => [x, y] as const)];
            const next = { ...state, points };
            return { state: next, effects: [{ kind: 'show-shape', shape: shapeOf(next) }] };
          }
          case 'up': {
            const from = state.points[state.began];
            const far = state.points
              .slice(state.began)
              .some(([x, y]) => Math.hypot(x - from[0], y - from[1]) > clickPx);
            if (far && state.began === 0) return closed(state);
            const points = far ? state.points : state.points.slice(0, state.began + 1);
            const next = { is: 'corners', points, op: state.op, more: state.more } as const;
            return { state: next, effects: [{ kind: 'show-shape', shape: shapeOf(next) }] };
          }
          case 'cancel':
            return { state: idle, effects: [hide] };
          default:
            return stay(state);
        }
    }
  },
};
