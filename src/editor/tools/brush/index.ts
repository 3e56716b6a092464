import { stay, type Tool } from '../gesture';

export type BrushState = { readonly is: 'idle' } | { readonly is: 'painting' };

const idle: BrushState = { is: 'idle' };

/** Painting: over what is to be marked, or the mend itself. `picks` makes Alt set a source instead of taking away. */
export const brushTool = (picks: boolean): Tool<BrushState> => ({
  start: idle,
  transition(state, event) {
    switch (state.is) {
      case 'idle':
        if (event.type !== 'down') return stay(state);
        if (event.alt && picks)
          return { state, effects: [{ kind: 'pick-source', at: { x: event.point[0], y: event.point[1] } }] };
        return {
          state: { is: 'painting' },
          effects: [{ kind: 'begin-stroke', point: event.point, shift: event.shift, alt: event.alt }],
        };
      case 'painting':
        switch (event.type) {
          case 'down':
          case 'finish':
            return stay(state);
          case 'move':
            return { state, effects: [{ kind: 'extend-stroke', points: event.points }] };
          case 'up':
            return {
              state: idle,
              effects: [{ kind: 'extend-stroke', points: [event.point] }, { kind: 'end-stroke' }],
            };
          case 'cancel':
            return { state: idle, effects: [{ kind: 'cancel-stroke' }] };
        }
    }
  },
});
