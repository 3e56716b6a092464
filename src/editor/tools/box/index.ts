import type { BoxShape, EllipseShape, ShapeOp } from '../../../core/area';
import { opOf, stay, type Tool } from '../gesture';

export type BoxState =
  | { readonly is: 'idle' }
  | {
      readonly is: 'dragging';
      readonly from: readonly [number, number];
      readonly to: readonly [number, number];
      readonly op: ShapeOp;
      readonly more: boolean;
    };

const idle: BoxState = { is: 'idle' };

/** A box, or the oval within it, from corner to corner on whole pixels. */
export const boxTool = (kind: 'box' | 'ellipse'): Tool<BoxState> => {
  const shapeOf = ({ from, to, op }: Extract<BoxState, { is: 'dragging' }>): BoxShape | EllipseShape => ({
    kind,
    op,
    x: Math.round(Math.min(from[0], to[0])),
    y: Math.round(Math.min(from[1], to[1])),
    w: Math.round(Math.abs(to[0] - from[0])),
    h: Math.round(Math.abs(to[1] - from[1])),
  });
  return {
    start: idle,
    transition(state, event) {
      switch (state.is) {
        case 'idle': {
          if (event.type !== 'down') return stay(state);
          const at = [event.point[0], event.point[1]] as const;
          return {
            state: {
              is: 'dragging',
              from: at,
              to: at,
              op: opOf(event),
              more: event.shift && !event.alt,
            },
            effects: [],
          };
        }
        case 'dragging':
          switch (event.type) {
            case 'move': {
              const last = event.points[event.points.length - 1];
              if (!last) return stay(state);
              const next = { ...state, to: [last[0], last[1]] as const };
              return { state: next, effects: [{ kind: 'show-shape', shape: shapeOf(next) }] };
            }
            case 'up': {
              const shape = shapeOf({ ...state, to: [event.point[0], event.point[1]] });
              const done = { kind: 'show-shape', shape: null } as const;
              if (shape.w < 1 || shape.h < 1) return { state: idle, effects: [done] };
              return { state: idle, effects: [done, { kind: 'mark', shape, shift: state.more }] };
            }
            case 'cancel':
              return { state: idle, effects: [{ kind: 'show-shape', shape: null }] };
            default:
              return stay(state);
          }
      }
    },
  };
};
