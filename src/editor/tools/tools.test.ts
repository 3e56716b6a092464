import { describe, expect, test } from 'vitest';
import { boxTool } from './box';
import { brushTool } from './brush';
import { chooseTool } from './choose';
import { clicksTool } from './clicks';
import type { Effect, GestureEvent, Tool } from './gesture';
import { lassoTool } from './lasso';
import { lineTool } from './line';
import { pullTool } from './pull';

/** Runs a script of events. @returns the states passed through and all effects */
function play<S extends { readonly is: string }>(
  tool: Tool<S>,
  events: readonly GestureEvent[],
): { path: string[]; effects: Effect[] } {
  let state = tool.start;
  const path: string[] = [];
  const effects: Effect[] = [];
  for (const event of events) {
    const step = tool.transition(state, event);
    state = step.state;
    path.push(state.is);
    effects.push(...step.effects);
  }
  return { path, effects };
}

const down = (
  x: number,
  y: number,
  more: Partial<Extract<GestureEvent, { type: 'down' }>> = {},
): GestureEvent => ({
  type: 'down',
  point: [x, y, 1],
  shift: false,
  alt: false,
  grip: null,
  ...more,
});
const move = (...points: [number, number][]): GestureEvent => ({
  type: 'move',
  points: points.map(([x, y]) => [x, y, 1] as const),
});
const up = (x: number, y: number): GestureEvent => ({ type: 'up', point: [x, y, 1] });
const cancel: GestureEvent = { type: 'cancel' };

describe('brush', () => {
  test('paints from press to release', () => {
    const { path, effects } = play(brushTool(true), [down(1, 2), move([3, 4], [5, 6]), up(7, 8)]);
    expect(path).toEqual(['painting', 'painting', 'idle']);
    expect(effects.map((e) => e.kind)).toEqual([
      'begin-stroke',
      'extend-stroke',
      'extend-stroke',
      'end-stroke',
    ]);
  });

  test('Alt sets a source where the method takes from one, and takes away where it marks', () => {
    expect(play(brushTool(true), [down(1, 2, { alt: true }), up(1, 2)]).effects).toEqual([
      { kind: 'pick-source', at: { x: 1, y: 2 } },
    ]);
    expect(play(brushTool(false), [down(1, 2, { alt: true })]).effects[0]).toMatchObject({
      kind: 'begin-stroke',
      alt: true,
    });
  });

  test('a cancelled stroke is rolled back and not committed', () => {
    const { path, effects } = play(brushTool(true), [down(1, 2), move([3, 4]), cancel, up(3, 4)]);
    expect(path.at(-1)).toBe('idle');
    expect(effects.map((e) => e.kind)).toEqual(['begin-stroke', 'extend-stroke', 'cancel-stroke']);
  });
});

describe('lasso', () => {
  test('closes where it is let go, and marks once', () => {
    const { effects } = play(lassoTool, [down(0, 0), move([10, 0], [10, 10]), move([0, 10]), up(0, 9)]);
    const marks = effects.filter((e) => e.kind === 'mark');
    expect(marks).toHaveLength(1);
    expect(marks[0]).toMatchObject({
      shape: {
        kind: 'polygon',
        op: 'add',
        points: [
          [0, 0],
          [10, 0],
          [10, 10],
          [0, 10],
        ],
      },
    });
  });

  test('a click without a drag marks nothing; Alt subtracts', () => {
    expect(play(lassoTool, [down(0, 0), up(0, 0)]).effects.some((e) => e.kind === 'mark')).toBe(false);
    const { effects } = play(lassoTool, [down(0, 0, { alt: true }), move([9, 0], [9, 9]), up(9, 9)]);
    expect(effects.find((e) => e.kind === 'mark')).toMatchObject({ shape: { op: 'subtract' } });
  });

  test('a cancelled outline leaves nothing on the photo', () => {
    expect(play(lassoTool, [down(0, 0), move([9, 0], [9, 9]), cancel]).effects.at(-1)).toEqual({
      kind: 'show-shape',
      shape: null,
    });
  });
});

describe('lasso with straight lines', () => {
  const click = (x: number, y: number, more = {}) => [down(x, y, more), up(x, y)];
  const shapes = (events: readonly GestureEvent[]) =>
    play(lassoTool, events).effects.flatMap((e) => (e.kind === 'mark' ? [e.shape] : []));

  test('clicks put down corners; it closes on the first one, on the last one twice, or when finished', () => {
    const corners = [...click(10, 10), ...click(60, 10), ...click(60, 40)];
    const want = {
      kind: 'polygon',
      op: 'add',
      points: [
        [10, 10],
        [60, 10],
        [60, 40],
      ],
    };
    expect(shapes([...corners, down(11, 9, { reach: 4 })])).toEqual([want]);
    expect(shapes([...corners, ...click(60, 40)])).toEqual([want]);
    expect(shapes([...corners, { type: 'finish' }])).toEqual([want]);
    expect(shapes(corners)).toEqual([]);
    expect(shapes([...click(10, 10), ...click(60, 10), { type: 'finish' }])).toEqual([]);
  });

  test('between corners the way may be drawn by hand', () => {
    const [shape] = shapes([
      ...click(0, 0),
      down(50, 0),
      move([55, 20], [50, 40]),
      up(50, 40),
      { type: 'finish' },
    ]);
    expect(shape).toMatchObject({
      points: [
        [0, 0],
        [50, 0],
        [55, 20],
        [50, 40],
      ],
    });
  });

  test('with Shift and Alt it keeps what lies in both', () => {
    const both = { shift: true, alt: true };
    expect(shapes([down(0, 0, both), move([50, 0], [50, 50]), up(50, 50)])).toMatchObject([
      { op: 'intersect' },
    ]);
  });
});

describe('pull and clicks', () => {
  test('a pull tells where it began, how far it went, and that it ended', () => {
    expect(play(pullTool, [down(10, 20, { alt: true }), move([25, 90]), up(30, 0)]).effects).toEqual([
      { kind: 'pull-begin', at: { x: 10, y: 20 }, op: 'subtract' },
      { kind: 'pull', dx: 15 },
      { kind: 'pull', dx: 20 },
      { kind: 'pull-end' },
    ]);
    expect(play(pullTool, [down(10, 20), cancel]).effects.at(-1)).toEqual({ kind: 'pull-cancel' });
  });

  test('a click counts once, where it was pressed', () => {
    expect(play(clicksTool, [down(10, 20), move([25, 90]), up(30, 0), down(1, 2)]).effects).toEqual([
      { kind: 'click', at: { x: 10, y: 20 }, op: 'add' },
      { kind: 'click', at: { x: 1, y: 2 }, op: 'add' },
    ]);
  });
});

describe('box', () => {
  test('an oval is dragged out the same way', () => {
    const { effects } = play(boxTool('ellipse'), [down(5, 5), move([25, 45]), up(25, 45)]);
    expect(effects.at(-1)).toMatchObject({ shape: { kind: 'ellipse', x: 5, y: 5, w: 20, h: 40 } });
  });

  test('is the same from any corner, on whole pixels', () => {
    for (const [a, b] of [
      [
        [2.4, 3.6],
        [20.2, 30.9],
      ],
      [
        [20.2, 30.9],
        [2.4, 3.6],
      ],
      [
        [2.4, 30.9],
        [20.2, 3.6],
      ],
    ]) {
      const { effects } = play(boxTool('box'), [down(a[0], a[1]), move([b[0], b[1]]), up(b[0], b[1])]);
      expect(effects.find((e) => e.kind === 'mark')).toMatchObject({ shape: { x: 2, y: 4, w: 18, h: 27 } });
    }
  });

  test('an empty box marks nothing', () => {
    expect(play(boxTool('box'), [down(5, 5), up(5.2, 40)]).effects.some((e) => e.kind === 'mark')).toBe(
      false,
    );
  });
});

describe('line', () => {
  test('goes from where it was pressed to where it was let go, and shows itself meanwhile', () => {
    const { effects } = play(lineTool, [down(10, 20), move([30, 25], [60, 40]), up(80, 50)]);
    expect(effects).toEqual([
      { kind: 'show-line', line: [10, 20, 60, 40] },
      { kind: 'show-line', line: null },
      { kind: 'line', line: [10, 20, 80, 50] },
    ]);
  });

  test('a click is no line, and cancel takes it back', () => {
    expect(play(lineTool, [down(10, 20), up(12, 21)]).effects).toEqual([{ kind: 'show-line', line: null }]);
    const { path, effects } = play(lineTool, [down(10, 20), move([90, 90]), cancel, up(90, 90)]);
    expect(path.at(-1)).toBe('idle');
    expect(effects.some((e) => e.kind === 'line')).toBe(false);
  });
});

describe('choose', () => {
  const grip = { kind: 'source', mendId: 'm' } as const;

  test('a click chooses; only a real drag moves, by whole pixels, in one drop', () => {
    expect(play(chooseTool(false), [down(5, 5, { grip }), move([5.6, 5]), up(5.6, 5)]).effects).toEqual([
      { kind: 'choose', mendId: 'm' },
    ]);
    const { path, effects } = play(chooseTool(false), [
      down(5, 5, { grip }),
      move([9.4, 5]),
      move([15.2, 8]),
      up(15.2, 8),
    ]);
    expect(path).toEqual(['pointing', 'dragging', 'dragging', 'idle']);
    expect(effects.at(-1)).toEqual({ kind: 'drop', grip, dx: 10, dy: 3 });
  });

  test('a press beside everything chooses none; a cancelled drag is shown undone', () => {
    expect(play(chooseTool(false), [down(5, 5)]).effects).toEqual([{ kind: 'choose', mendId: null }]);
    expect(play(chooseTool(false), [down(5, 5, { grip }), move([30, 5]), cancel]).effects.at(-1)).toEqual({
      kind: 'undrag',
    });
  });
});

test('with a method that paints, Alt sets a source while choosing, and a stroke beside everything is answered once', () => {
  const tool = chooseTool(true);
  const over = { kind: 'mend', mendId: 'm' } as const;
  for (const grip of [null, over])
    expect(play(tool, [down(5, 6, { alt: true, grip }), up(5, 6)]).effects).toEqual([
      { kind: 'pick-source', at: { x: 5, y: 6 } },
    ]);
  expect(play(tool, [down(5, 5), move([6, 5]), up(6, 5)]).effects).toEqual([
    { kind: 'choose', mendId: null },
  ]);
  const { path, effects } = play(tool, [down(5, 5), move([40, 5]), move([80, 5]), up(80, 5)]);
  expect(path).toEqual(['beside', 'ignored', 'ignored', 'idle']);
  expect(effects).toEqual([{ kind: 'choose', mendId: null }, { kind: 'no-brush' }]);
  // What can be taken hold of still can.
  const corner = { kind: 'corner', mendId: null, index: 0 } as const;
  expect(play(tool, [down(5, 5, { grip: corner }), move([15, 5]), up(15, 5)]).effects.at(-1)?.kind).toBe(
    'drop',
  );
});

test('every tool is idle again after a cancel, in every state', () => {
  const scripts: [Tool<{ readonly is: string }>, GestureEvent[]][] = [
    [brushTool(true) as never, [down(1, 1)]],
    [lassoTool as never, [down(1, 1), move([5, 5])]],
    [lineTool as never, [down(1, 1), move([50, 5])]],
    [boxTool('box') as never, [down(1, 1), move([5, 5])]],
    [lassoTool as never, [down(1, 1), up(1, 1), down(9, 9)]],
    [pullTool as never, [down(1, 1), move([5, 5])]],
    [clicksTool as never, [down(1, 1)]],
    [chooseTool(true) as never, [down(1, 1), move([50, 5])]],
    [chooseTool(false) as never, [down(1, 1, { grip: { kind: 'mend', mendId: 'm' } }), move([9, 9])]],
  ];
  for (const [tool, events] of scripts)
    for (let k = 0; k <= events.length; k++)
      expect(play(tool, [...events.slice(0, k), cancel]).path.at(-1)).toBe('idle');
});
