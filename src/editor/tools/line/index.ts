import { stay, type Tool } from '../gesture';

export type LineState =
  | { readonly is: 'idle' }
  | { readonly is: 'drawing'; readonly from: readonly [number, number] };

const idle: LineState = { is: 'idle' };

/** Shorter than this, in document pixels, it was no line. */
const leastPx = 6;

/** Drawing a straight line from one point to another: an edge that runs on, or a direction. */
export const lineTool: Tool<LineState> = {
  start: idle,
  transition(state, event) {
    if (state.is === 'idle') {
      if (event.type !== 'down') return stay(state);
      return { state: { is: 'drawing', from: [event.point[0], event.point[1]] }, effects: [] };
    }
    if (event.type === 'down' || event.type === 'finish') return stay(state);
    if (event.type === 'cancel') return { state: idle, effects: [{ kind: 'show-line', line: null }] };
    const last = event.type === 'up' ? event.point : event.points[event.points.length - 1];
    if (!last) return stay(state);
    const line = [...state.from, last[0], last[1]] as const;
    if (event.type === 'move') return { state, effects: [{ kind: 'show-line', line }] };
    const isLine = Math.hypot(line[2] - line[0], line[3] - line[1]) >= leastPx;
    return {
      state: idle,
      effects: [{ kind: 'show-line', line: null }, ...(isLine ? [{ kind: 'line', line } as const] : [])],
    };
  },
};
