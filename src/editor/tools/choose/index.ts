import { type Grip, stay, type Tool } from '../gesture';

export type ChooseState =
  | { readonly is: 'idle' }
  /** Pressed where there is nothing, by someone who may take it for painting. */
  | { readonly is: 'beside'; readonly from: readonly [number, number]; readonly reach: number }
  | { readonly is: 'ignored' }
  | { readonly is: 'pointing'; readonly grip: Grip; readonly from: readonly [number, number] }
  | {
      readonly is: 'dragging';
      readonly grip: Grip;
      readonly from: readonly [number, number];
      readonly dx: number;
      readonly dy: number;
    };

const idle: ChooseState = { is: 'idle' };

/** The pointer must go this far, in document pixels, before a press becomes a drag. */
const slackPx = 2;

/** Choosing a mend on the photo, and dragging the chosen one or its source. `paints`: a method is taken up that paints with a
 *  brush, so that Alt sets a source here too, and a stroke is answered. */
export const chooseTool = (paints: boolean): Tool<ChooseState> => ({
  start: idle,
  transition(state, event) {
    switch (state.is) {
      case 'idle':
        if (event.type !== 'down') return stay(state);
        if (paints && event.alt && (!event.grip || event.grip.kind === 'mend'))
          return { state, effects: [{ kind: 'pick-source', at: { x: event.point[0], y: event.point[1] } }] };
        if (!event.grip)
          return {
            state: paints
              ? { is: 'beside', from: [event.point[0], event.point[1]], reach: event.reach ?? slackPx }
              : state,
            effects: [{ kind: 'choose', mendId: null }],
          };
        return {
          state: { is: 'pointing', grip: event.grip, from: [event.point[0], event.point[1]] },
          effects:
            event.grip.kind === 'mark' || event.grip.mendId === null
              ? []
              : [{ kind: 'choose', mendId: event.grip.mendId }],
        };
      case 'beside': {
        if (event.type === 'up' || event.type === 'cancel') return { state: idle, effects: [] };
        if (event.type !== 'move') return stay(state);
        const isDrag = event.points.some(
          ([x, y]) => Math.hypot(x - state.from[0], y - state.from[1]) > state.reach,
        );
        return isDrag ? { state: { is: 'ignored' }, effects: [{ kind: 'no-brush' }] } : stay(state);
      }
      case 'ignored':
        return event.type === 'up' || event.type === 'cancel' ? { state: idle, effects: [] } : stay(state);
      case 'pointing':
      case 'dragging': {
        if (event.type === 'down' || event.type === 'finish') return stay(state);
        if (event.type === 'cancel') return { state: idle, effects: [{ kind: 'undrag' }] };
        const last = event.type === 'up' ? event.point : event.points[event.points.length - 1];
        if (!last) return stay(state);
        const dx = Math.round(last[0] - state.from[0]);
        const dy = Math.round(last[1] - state.from[1]);
        const moved = state.is === 'dragging' || Math.hypot(dx, dy) >= slackPx;
        if (event.type === 'up')
          return { state: idle, effects: moved ? [{ kind: 'drop', grip: state.grip, dx, dy }] : [] };
        if (!moved) return stay(state);
        return {
          state: { is: 'dragging', grip: state.grip, from: state.from, dx, dy },
          effects: [{ kind: 'drag', grip: state.grip, dx, dy }],
        };
      }
    }
  },
});
