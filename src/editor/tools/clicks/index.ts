import { opOf, stay, type Tool } from '../gesture';

export type ClicksState = { readonly is: 'idle' } | { readonly is: 'pressed' };

const idle: ClicksState = { is: 'idle' };

/** Points put down one by one. */
export const clicksTool: Tool<ClicksState> = {
  start: idle,
  transition(state, event) {
    if (state.is === 'idle') {
      if (event.type !== 'down') return stay(state);
      const at = { x: event.point[0], y: event.point[1] };
      return { state: { is: 'pressed' }, effects: [{ kind: 'click', at, op: opOf(event) }] };
    }
    return event.type === 'up' || event.type === 'cancel' ? { state: idle, effects: [] } : stay(state);
  },
};
