import type { PolygonShape } from '../../../core/area';
import { stay, type Tool } from '../gesture';

export type LassoState =
  | { readonly is: 'idle' }
  | {
      readonly is: 'drawing';
      readonly points: readonly (readonly [number, number])[];
      readonly shift: boolean;
      readonly alt: boolean;
    };

const idle: LassoState = { is: 'idle' };

const shapeOf = (state: Extract<LassoState, { is: 'drawing' }>): PolygonShape => ({
  kind: 'polygon',
  op: state.alt ? 'subtract' : 'add',
  points: state.points,
});

/** Drawing round a thing. Let go anywhere: the outline closes by itself with a straight line. */
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
            shift: event.shift,
            alt: event.alt,
          },
          effects: [],
        };
      case 'drawing':
        switch (event.type) {
          case 'down':
            return stay(state);
          case 'move': {
            const points = [...state.points, ...event.points.map(([x, y]) => [x, y] as const)];
            const next = { ...state, points };
            return { state: next, effects: [{ kind: 'show-shape', shape: shapeOf(next) }] };
          }
          case 'up': {
            const done = { kind: 'show-shape', shape: null } as const;
            if (state.points.length < 3) return { state: idle, effects: [done] };
            return {
              state: idle,
              effects: [done, { kind: 'mark', shape: shapeOf(state), shift: state.shift }],
            };
          }
          case 'cancel':
            return { state: idle, effects: [{ kind: 'show-shape', shape: null }] };
        }
    }
  },
};
