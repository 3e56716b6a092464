// The grids that multigrid works on, from the finest to the coarsest, and the memory that they lie in. AssemblyScript.

export const FREE: u8 = 1; // all four neighbours are there, with weight 1
export const FIXED: u8 = 2;
export const EDGE: u8 = 3; // free, with weights of its own
// Free, and too far from the rim for the next finer level: this one alone says what holds there.
export const OWN: u8 = 5;
// Free, but too far from the rim for anything as fine as this level: only coarser levels work there. Next to points that
// this level works on, it holds what the coarser level says.
export const DEEP: u8 = 7;
export const SHORE: u8 = 9;

// Level record, 9 words: w, h, kind, u, f, weights (0 on the finest), u before this level was worked on, runs (0: all), what is not free all
// round on this level or a finer one.
let levels: usize = 0;
/** How many there are. */
export let count: i32 = 0;
/** Where the next claim begins. */
export let top: usize = 0;

// @ts-ignore: decorator
@inline export function field(level: i32, k: i32): usize { return load<u32>(levels + ((<usize>level * 9 + k) << 2)); }

// @ts-ignore: decorator
@inline export function setField(level: i32, k: i32, v: usize): void { store<u32>(levels + ((<usize>level * 9 + k) << 2), <u32>v); }

/** Forgets all levels, and makes room for the first. @returns false when memory is short */
export function openLevels(): bool {
  top = __heap_base;
  levels = claim(64 * 9 * 4);
  count = 1;
  return levels != 0;
}

export function addLevel(): void { count++; }

/** Gives back all that was claimed since the top of memory was here. */
export function giveBack(at: usize): void { top = at; }

/** @returns 16-byte aligned zeroes, or 0 when there is no more memory */
export function claim(bytes: usize): usize {
  const at = claimAsIs(bytes);
  if (at) memory.fill(at, 0, bytes);
  return at;
}

/** The same with whatever it holds. */
export function claimAsIs(bytes: usize): usize {
  const at = (top + 15) & ~15;
  top = at + bytes;
  const need = <i32>((top + 65535) >> 16) - memory.size();
  if (need > 0 && memory.grow(need) < 0) return 0;
  return at;
}

// The runs of a row that a level works on, as near-rim.ts lists them: first and end of their numbers, and the columns
// of one. A level without a list has one run a row, the whole.
// @ts-ignore: decorator
@inline export function firstRun(l: i32, y: i32): i32 { const at = field(l, 7); return at ? load<i32>(at + (<usize>y << 2)) : 0; }

// @ts-ignore: decorator
@inline export function lastRun(l: i32, y: i32): i32 { const at = field(l, 7); return at ? load<i32>(at + (<usize>(y + 1) << 2)) : 1; }

// @ts-ignore: decorator
@inline export function runFrom(l: i32, r: i32): i32 { const at = field(l, 7); return at ? load<i32>(at + (<usize>(<i32>field(l, 1) + 1 + 2 * r) << 2)) : 0; }

// @ts-ignore: decorator
@inline export function runTo(l: i32, r: i32): i32 { const at = field(l, 7); return at ? load<i32>(at + (<usize>(<i32>field(l, 1) + 2 + 2 * r) << 2)) : <i32>field(l, 0); }

/** Where the row of coarse points lies that is level with a row of fine ones, or above it. */
// @ts-ignore: decorator
@inline export function rowAbove(coarse: usize, cw: i32, y: i32): usize { return coarse + (<usize>((y >> 1) * cw) << 4); }

/** The same for the row that is level with it, or below it. */
// @ts-ignore: decorator
@inline export function rowBelow(coarse: usize, cw: i32, ch: i32, y: i32): usize { return coarse + (<usize>(min(ch - 1, (y + 1) >> 1) * cw) << 4); }

/** The mean of the coarse points round a fine one, from the rows above and below it. */
// @ts-ignore: decorator
@inline export function between(above: usize, below: usize, cw: i32, x: i32): v128 {
  const left = <usize>(x >> 1) << 4, right = <usize>min(cw - 1, (x + 1) >> 1) << 4;
  return f32x4.mul(f32x4.splat(0.25), f32x4.add(
    f32x4.add(v128.load(above + left), v128.load(above + right)),
    f32x4.add(v128.load(below + left), v128.load(below + right))));
}

/** The sum of the four points beside one. */
// @ts-ignore: decorator
@inline export function crossOf(p: usize, row: usize): v128 {
  return f32x4.add(f32x4.add(v128.load(p - 16), v128.load(p + 16)), f32x4.add(v128.load(p - row), v128.load(p + row)));
}

/** The sum of the four points at the corners of one. */
// @ts-ignore: decorator
@inline export function cornersOf(p: usize, row: usize): v128 {
  return f32x4.add(f32x4.add(v128.load(p - row - 16), v128.load(p - row + 16)), f32x4.add(v128.load(p + row - 16), v128.load(p + row + 16)));
}

// @ts-ignore: decorator
@inline export function greatest(a: v128): f32 {
  return max(max(f32x4.extract_lane(a, 0), f32x4.extract_lane(a, 1)), max(f32x4.extract_lane(a, 2), f32x4.extract_lane(a, 3)));
}
