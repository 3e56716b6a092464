import { opOf, stay, type Tool } from '../gesture';

export type PullState = { readonly is: 'idle' } | { readonly is: 'pulling'; readonly fromX: number };

const idle: PullState = { is: 'idle' };

/** Pressing on a place and pulling sideways: how far says how much. */
export const pullTool: Tool<PullState> = {
  start: idle,
  transition(state, event) {
    switch (state.is) {
      case 'idle':
        if (event.type !== 'down') return stay(state);
        return {
          state: { is: 'pulling', fromX: event.point[0] },
          effects: [{ kind: 'pull-begin', at: { x: event.point[0], y: event.point[1] }, op: opOf(event) }],
        };
      case 'pulling':
        switch (event.type) {
          case 'move': {
            const last = event.points[event.points.length - 1];
            return last ? { state, effects: [{ kind: 'pull', dx: last[0] - state.fromX }] } : stay(state);
          }
          case 'up':
            return {
              state: idle,
              effects: [{ kind: 'pull', dx: event.point[0] - state.fromX }, { kind: 'pull-end' }],
            };
          case 'cancel':
            return { state: idle, effects: [{ kind: 'pull-cancel' }] };
          default:
            return stay(state);
        }
    }
  },
};
