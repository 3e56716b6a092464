// Multigrid for Laplace's equation on four interleaved float channels (one v128 a pixel). See core/solve/membrane.ts
// for the contract and the papers; this file is AssemblyScript and holds only the loops.

const FREE: u8 = 1; // all four neighbours are there, with weight 1
const FIXED: u8 = 2;
const EDGE: u8 = 3; // free, with weights of its own
// Free, but too far from the rim for anything as fine as this level: only coarser levels work there. Next to points that
// this level works on, it holds what the coarser level says.
const DEEP: u8 = 5;
const SHORE: u8 = 7;

// Level record, 8 words: w, h, kind, u, f, weights (0 on the finest), u before this level was worked on, runs (0: all).
let levels: usize = 0;
let count: i32 = 0;
let top: usize = 0;

// @ts-ignore: decorator
@inline function field(level: i32, k: i32): usize { return load<u32>(levels + ((<usize>level * 8 + k) << 2)); }
// @ts-ignore: decorator
@inline function setField(level: i32, k: i32, v: usize): void { store<u32>(levels + ((<usize>level * 8 + k) << 2), <u32>v); }

function claim(bytes: usize): usize {
  const at = (top + 15) & ~15;
  top = at + bytes;
  const need = <i32>((top + 65535) >> 16) - memory.size();
  if (need > 0 && memory.grow(need) < 0) return 0;
  memory.fill(at, 0, bytes);
  return at;
}

/** Makes room for a grid; the caller then writes kinds (w·h bytes) at the returned offset and values behind them at
 *  `valuesAt()`, and the source term at `sourceAt()` if there is one. 0 when memory is short. */
export function begin(w: i32, h: i32, withSource: bool): usize {
  top = __heap_base;
  levels = claim(64 * 8 * 4);
  if (!levels) return 0;
  count = 1;
  const n = <usize>w * h;
  const kind = claim(n);
  const u = claim(n * 16);
  if (!kind || !u) return 0;
  setField(0, 0, w);
  setField(0, 1, h);
  setField(0, 2, kind);
  setField(0, 3, u);
  const f: usize = withSource ? claim(n * 16) : 0;
  if (withSource && !f) return 0;
  setField(0, 4, f);
  return kind;
}

export function valuesAt(): usize { return field(0, 3); }
export function sourceAt(): usize { return field(0, 4); }

/** Runs cycles until nothing moves by more than `tolerance`. @returns cycles, negative when not converged, 0 when memory is short. */
export function run(tolerance: f32, maxCycles: i32): i32 {
  if (!build()) return 0;
  smoothings = 1;
  if (!field(0, 4) && <i32>field(0, 0) * <i32>field(0, 1) >= worthwhile) {
    startEvenly();
    const found = deepen();
    if (found < 0) return 0;
    if (found > 0) {
      for (let k = 1; k <= min(maxCycles, plainCycles); k++)
        if (cycleAdaptive(0) <= tolerance) {
          fillDeep();
          return k;
        }
      surface();
    }
  }
  if (!spread()) return 0;
  for (let k = 1; k <= min(maxCycles, plainCycles); k++) if (cycle(0) <= tolerance) return k;
  // Where fixed points are strewn about, the coarse grids miss them and cycles alone may even diverge.
  if (maxCycles <= plainCycles) return -maxCycles;
  smoothings = 2;
  if (!spread()) return 0;
  return conjugate(tolerance, maxCycles);
}

/** Smooth rims take three to five. */
const plainCycles: i32 = 8;

// Four sums, one a channel, of a·b over the grid.
function dots(a: usize, b: usize, n: usize, w: usize, out: usize): void {
  memory.fill(out, 0, 32);
  for (let row: usize = 0; row < n; row += w) {
    let sum = f32x4.splat(0);
    for (let i = row << 4; i < (row + w) << 4; i += 16) sum = f32x4.add(sum, f32x4.mul(v128.load(a + i), v128.load(b + i)));
    store<f64>(out, load<f64>(out) + f32x4.extract_lane(sum, 0));
    store<f64>(out, load<f64>(out, 8) + f32x4.extract_lane(sum, 1), 8);
    store<f64>(out, load<f64>(out, 16) + f32x4.extract_lane(sum, 2), 16);
    store<f64>(out, load<f64>(out, 24) + f32x4.extract_lane(sum, 3), 24);
  }
}

// @ts-ignore: decorator
@inline function ratio(a: usize, b: usize, c: usize): f32 {
  const over = load<f64>(b + c * 8);
  return abs(over) > 1e-30 ? <f32>(load<f64>(a + c * 8) / over) : 0;
}

function ratios(a: usize, b: usize): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(ratio(a, b, 0)), 1, ratio(a, b, 1)), 2, ratio(a, b, 2)), 3, ratio(a, b, 3));
}

/** Conjugate gradients with a cycle as preconditioner, which always converge. The flexible variant (Polak & Ribière), since
 *  a cycle that sweeps in one order is not symmetric. */
function conjugate(tolerance: f32, maxCycles: i32): i32 {
  const w = <usize>field(0, 0), h = <i32>field(0, 1), n = w * <usize>h;
  const u = field(0, 3), f = field(0, 4);
  const r = claim(n << 4), z = claim(n << 4), p = claim(n << 4), t = claim(n << 4), sums = claim(96);
  if (!r || !z || !p || !t || !sums) return 0;
  const zr = sums, old = sums + 32, pt = sums + 64;
  for (let y = 0; y < h; y++) residualRow(0, y, r + (<usize>y * w << 4));
  let k = plainCycles + 1;
  let done = false;
  for (; k <= maxCycles && !done; k++) {
    memory.fill(z, 0, n << 4);
    setField(0, 3, z);
    setField(0, 4, r);
    cycle(0);
    dots(z, r, n, w, zr);
    if (k > plainCycles + 1) {
      // t still holds what was taken from r: z·(r − r before) = −z·t.
      dots(z, t, n, w, pt);
      for (let c: usize = 0; c < 4; c++) store<f64>(pt + c * 8, -load<f64>(pt + c * 8));
      const beta = f32x4.max(f32x4.splat(0), ratios(pt, old));
      for (let i: usize = 0; i < n << 4; i += 16) v128.store(p + i, f32x4.add(v128.load(z + i), f32x4.mul(beta, v128.load(p + i))));
    } else memory.copy(p, z, n << 4);
    memory.copy(old, zr, 32);
    setField(0, 3, p);
    setField(0, 4, 0);
    for (let y = 0; y < h; y++) residualRow(0, y, t + (<usize>y * w << 4)); // −A p
    dots(p, r, n, w, zr);
    dots(p, t, n, w, pt);
    for (let c: usize = 0; c < 4; c++) store<f64>(pt + c * 8, -load<f64>(pt + c * 8));
    const alpha = ratios(zr, pt);
    let largest = f32x4.splat(0);
    for (let i: usize = 0; i < n << 4; i += 16) {
      const step = f32x4.mul(alpha, v128.load(p + i));
      largest = f32x4.max(largest, f32x4.abs(step));
      v128.store(u + i, f32x4.add(v128.load(u + i), step));
      const taken = f32x4.mul(alpha, v128.load(t + i));
      v128.store(t + i, f32x4.sub(f32x4.splat(0), taken));
      v128.store(r + i, f32x4.add(v128.load(r + i), taken));
    }
    done = greatest(largest) <= tolerance * 0.25;
  }
  setField(0, 3, u);
  setField(0, 4, f);
  return done ? k - 1 : -maxCycles;
}

/** Marks what lies deep on every level that has a coarser one. @returns 1 when there is any on the finest, −1 when memory is short */
function deepen(): i32 {
  let any = 0;
  for (let l = 0; l < count - 1; l++) {
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
    const keep = top;
    const near = claim(<usize>w * h);
    if (!near) return -1;
    // Within `shallow` of a point that is not free all round: along rows, then along columns.
    for (let y = 0; y < h; y++) {
      const row = <usize>(y * w);
      let last = -shallow - 1;
      for (let x = 0; x < w; x++) {
        if (load<u8>(kind + row + x) != FREE) last = x;
        if (x - last <= shallow) store<u8>(near + row + x, 1);
      }
      last = w + shallow + 1;
      for (let x = w - 1; x >= 0; x--) {
        if (load<u8>(kind + row + x) != FREE) last = x;
        if (last - x <= shallow) store<u8>(near + row + x, 1);
      }
    }
    const rows = claim(<usize>w * 4);
    if (!rows) return -1;
    // Each column's distance to the last near row, from above and then from below; what stays far both ways is deep.
    for (let x = 0; x < w; x++) store<i32>(rows + (<usize>x << 2), -shallow - 1);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const i = <usize>(y * w + x), at = rows + (<usize>x << 2);
        if (load<u8>(near + i) == 1) store<i32>(at, y);
        else if (y - load<i32>(at) <= shallow) store<u8>(near + i, 2);
      }
    for (let x = 0; x < w; x++) store<i32>(rows + (<usize>x << 2), h + shallow + 1);
    for (let y = h - 1; y >= 0; y--)
      for (let x = 0; x < w; x++) {
        const i = <usize>(y * w + x), at = rows + (<usize>x << 2);
        if (load<u8>(near + i) == 1) store<i32>(at, y);
        else if (load<i32>(at) - y <= shallow) store<u8>(near + i, 2);
      }
    for (let i: usize = 0; i < <usize>w * h; i++)
      if (load<u8>(near + i) == 0) {
        store<u8>(kind + i, DEEP);
        if (l == 0) any = 1;
      }
    for (let y = 1; y < h - 1; y++)
      for (let x = 1; x < w - 1; x++) {
        const i = <usize>(y * w + x);
        if (load<u8>(kind + i) == DEEP && (load<u8>(near + i - 1) || load<u8>(near + i + 1) || load<u8>(near + i - w) || load<u8>(near + i + w))) store<u8>(kind + i, SHORE);
      }
    top = keep;
    if (!findRuns(l)) return -1;
    const before = claim(<usize>(<i32>field(l + 1, 0) * <i32>field(l + 1, 1)) << 4);
    if (!before) return -1;
    setField(l + 1, 6, before);
    // To begin with, coarse points have what the fine ones have.
    inject(l, true);
  }
  if (!findRuns(count - 1)) return -1;
  return any;
}

/** Lists where the points lie that a level works on, or that it needs: for each row the number of its first run, then runs
 *  as pairs of columns. */
function findRuns(l: i32): bool {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
  let runs = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0, open = false; x < w; x++) {
      const k = load<u8>(kind + <usize>(y * w + x));
      const here = (k & 1) == 1 && k != DEEP;
      if (here && !open) runs++;
      open = here;
    }
  const at = claim(<usize>(h + 1 + 2 * runs) << 2);
  if (!at) return false;
  setField(l, 7, at);
  runs = 0;
  for (let y = 0; y < h; y++) {
    store<i32>(at + (<usize>y << 2), runs);
    for (let x = 0, open = false; x < w; x++) {
      const k = load<u8>(kind + <usize>(y * w + x));
      const here = (k & 1) == 1 && k != DEEP;
      const pair = at + (<usize>(h + 1 + 2 * runs) << 2);
      if (here && !open) store<i32>(pair, x);
      if (!here && open) { store<i32>(pair + 4, x); runs++; }
      if (here && x == w - 1) { store<i32>(pair + 4, w); runs++; }
      open = here;
    }
  }
  store<i32>(at + (<usize>h << 2), runs);
  return true;
}

// @ts-ignore: decorator
@inline function firstRun(l: i32, y: i32): i32 { const at = field(l, 7); return at ? load<i32>(at + (<usize>y << 2)) : 0; }
// @ts-ignore: decorator
@inline function lastRun(l: i32, y: i32): i32 { const at = field(l, 7); return at ? load<i32>(at + (<usize>(y + 1) << 2)) : 1; }
// @ts-ignore: decorator
@inline function runFrom(l: i32, r: i32): i32 { const at = field(l, 7); return at ? load<i32>(at + (<usize>(<i32>field(l, 1) + 1 + 2 * r) << 2)) : 0; }
// @ts-ignore: decorator
@inline function runTo(l: i32, r: i32): i32 { const at = field(l, 7); return at ? load<i32>(at + (<usize>(<i32>field(l, 1) + 2 + 2 * r) << 2)) : <i32>field(l, 0); }

/** From so many points on, leaving out what is deep costs less than finding it. */
const worthwhile: i32 = 40_000;
/** A rim's detail of a certain size fades inwards within about that length, so that behind so many points of a level,
 *  half as fine will do. */
const shallow: i32 = 12;

/** Deep points are worked on like all others. */
function surface(): void {
  for (let l = 0; l < count; l++) {
    const n = <usize>(<i32>field(l, 0) * <i32>field(l, 1)), kind = field(l, 2);
    setField(l, 7, 0);
    for (let i: usize = 0; i < n; i++) if (load<u8>(kind + i) >= DEEP) store<u8>(kind + i, FREE);
  }
}

/** Brings values to the coarser level; to points under deep ones only when `all` is set. */
function inject(l: i32, all: bool): void {
  const w = <i32>field(l, 0), kind = field(l, 2), u = field(l, 3);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), ck = field(l + 1, 2), cu = field(l + 1, 3);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y); r < lastRun(l + 1, y); r++)
    for (let x = runFrom(l + 1, r); x < runTo(l + 1, r); x++) {
      const j = <usize>(y * cw + x);
      if ((load<u8>(ck + j) & 1) == 0) continue;
      const i = <usize>(2 * y * w + 2 * x);
      if (all || load<u8>(kind + i) < DEEP) v128.store(cu + (j << 4), v128.load(u + (i << 4)));
    }
}

/** The sum of links at a free point, times its value, less what its neighbours give: the left side of its equation. */
function leftSide(l: i32, x: i32, y: i32): v128 {
  const w = <i32>field(l, 0), u = field(l, 3);
  const row = <usize>w << 4;
  const i = <usize>(y * w + x), p = u + (i << 4);
  const here = v128.load(p);
  if (load<u8>(field(l, 2) + i) != EDGE)
    return f32x4.sub(f32x4.mul(f32x4.splat(4), here), f32x4.add(f32x4.add(v128.load(p - 16), v128.load(p + 16)), f32x4.add(v128.load(p - row), v128.load(p + row))));
  let sum = f32x4.splat(0);
  for (let d = 0; d < 4; d++) {
    const wt = weightOf(l, x, y, d);
    if (wt < 0) sum = f32x4.sub(sum, f32x4.mul(f32x4.splat(wt), here));
    if (wt <= 0) continue;
    const q = d == 0 ? p - 16 : d == 1 ? p + 16 : d == 2 ? p - row : p + row;
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(wt), f32x4.sub(here, v128.load(q))));
  }
  return sum;
}

/** A V-cycle in which every level holds full values (Brandt 1977, section 4: MLAT), so that levels need not reach
 *  everywhere. @returns the greatest change */
function cycleAdaptive(l: i32): f32 {
  if (l == count - 1) {
    let change: f32 = 0;
    for (let k = 0; k < 80; k++) { change = sweep(l); if (change < 1e-8) break; }
    return change;
  }
  sweep(l);
  if (!restrict(l)) return 0;
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), ck = field(l + 1, 2), cu = field(l + 1, 3), cf = field(l + 1, 4), before = field(l + 1, 6);
  inject(l, false);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y); r < lastRun(l + 1, y); r++)
    for (let x = runFrom(l + 1, r); x < runTo(l + 1, r); x++) {
      const j = <usize>(y * cw + x);
      v128.store(before + (j << 4), v128.load(cu + (j << 4)));
      const k = load<u8>(ck + j);
      if (k != FREE && k != EDGE) continue;
      const i = <usize>(2 * y * w + 2 * x);
      // Where the finer level does not reach, the equation is the coarse level's own.
      const whole = k == EDGE || (load<u8>(kind + i - w - 1) < DEEP && load<u8>(kind + i - w + 1) < DEEP && load<u8>(kind + i + w - 1) < DEEP && load<u8>(kind + i + w + 1) < DEEP);
      v128.store(cf + (j << 4), whole ? f32x4.add(v128.load(cf + (j << 4)), leftSide(l + 1, x, y)) : f32x4.splat(0));
    }
  let change = cycleAdaptive(l + 1);
  let largest = f32x4.splat(0);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y); r < lastRun(l + 1, y); r++)
    for (let x = runFrom(l + 1, r); x < runTo(l + 1, r); x++) {
      const j = <usize>(y * cw + x) << 4;
      const moved = f32x4.sub(v128.load(cu + j), v128.load(before + j));
      v128.store(before + j, moved);
      largest = f32x4.max(largest, f32x4.abs(moved));
    }
  for (let y = 0; y < h; y++)
    for (let r = firstRun(l, y); r < lastRun(l, y); r++)
    for (let x = runFrom(l, r); x < runTo(l, r); x++) {
      const i = <usize>(y * w + x);
      const k = load<u8>(kind + i);
      const p = u + (i << 4);
      if (k == FREE || k == EDGE) v128.store(p, f32x4.add(v128.load(p), between(before, cw, ch, x, y)));
      else if (k == SHORE) v128.store(p, between(cu, cw, ch, x, y));
    }
  change = max(greatest(largest), change);
  return change + sweep(l);
}

/** The mean of the coarse points round a fine one. */
// @ts-ignore: decorator
@inline function between(coarse: usize, cw: i32, ch: i32, x: i32, y: i32): v128 {
  const x0 = x >> 1, x1 = min(cw - 1, (x + 1) >> 1), y0 = y >> 1, y1 = min(ch - 1, (y + 1) >> 1);
  return f32x4.mul(f32x4.splat(0.25), f32x4.add(
    f32x4.add(v128.load(coarse + (<usize>(y0 * cw + x0) << 4)), v128.load(coarse + (<usize>(y0 * cw + x1) << 4))),
    f32x4.add(v128.load(coarse + (<usize>(y1 * cw + x0) << 4)), v128.load(coarse + (<usize>(y1 * cw + x1) << 4)))));
}

/** Deep points take what the coarser level found, from the coarsest to the finest. */
function fillDeep(): void {
  for (let l = count - 2; l >= 0; l--) {
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
    const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), cu = field(l + 1, 3);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const i = <usize>(y * w + x);
        if (load<u8>(kind + i) >= DEEP) v128.store(u + (i << 4), between(cu, cw, ch, x, y));
      }
  }
}

// Weights of a node: left, right, up, down. Negative: the link ends at a fixed zero before it reaches the next node.
// The sum of their sizes is the diagonal.
function build(): bool {
  const w0 = <i32>field(0, 0), h0 = <i32>field(0, 1), k0 = field(0, 2);
  const wt0 = claim(16); // the finest level has weights 1 or 0 and needs none stored
  setField(0, 5, wt0);
  for (let y = 0; y < h0; y++)
    for (let x = 0; x < w0; x++) {
      const i = <usize>(y * w0 + x);
      const k = load<u8>(k0 + i);
      if ((k & 1) == 0) continue;
      const whole = x > 0 && y > 0 && x < w0 - 1 && y < h0 - 1 && load<u8>(k0 + i - 1) != 0 && load<u8>(k0 + i + 1) != 0 && load<u8>(k0 + i - w0) != 0 && load<u8>(k0 + i + w0) != 0;
      store<u8>(k0 + i, whole ? FREE : EDGE);
    }
  while (count < 30) {
    const l = count - 1;
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
    if (w < 5 && h < 5) break;
    const cw = (w >> 1) + 1, ch = (h >> 1) + 1;
    const n = <usize>cw * ch;
    const ck = claim(n), cu = claim(n * 16), cf = claim(n * 16), cwt = claim(n * 16);
    if (!ck || !cu || !cf || !cwt) return false;
    let free = 0;
    for (let y = 0; y < ch; y++)
      for (let x = 0; x < cw; x++) {
        if (2 * x >= w || 2 * y >= h) continue;
        const k = load<u8>(kind + <usize>(2 * y * w + 2 * x));
        if ((k & 1) == 0) { store<u8>(ck + <usize>(y * cw + x), k); continue; }
        const at = cwt + <usize>(y * cw + x) * 16;
        const i = kind + <usize>(2 * y * w + 2 * x);
        if (k == FREE && load<u8>(i - 1) == FREE && load<u8>(i + 1) == FREE && load<u8>(i - w) == FREE && load<u8>(i + w) == FREE) {
          v128.store(at, f32x4.splat(1));
          store<u8>(ck + <usize>(y * cw + x), FREE);
          free++;
          continue;
        }
        let plain = true;
        for (let d = 0; d < 4; d++) {
          const wgt = series(l, 2 * x, 2 * y, d);
          store<f32>(at + d * 4, wgt);
          if (wgt != 1) plain = false;
        }
        store<u8>(ck + <usize>(y * cw + x), plain ? FREE : EDGE);
        free++;
      }
    if (free == 0) break;
    setField(count, 0, cw); setField(count, 1, ch); setField(count, 2, ck); setField(count, 3, cu); setField(count, 4, cf); setField(count, 5, cwt);
    count++;
  }
  return true;
}

/** Weight from a free node towards its neighbour in direction d; 0 when that is away. */
function weightOf(l: i32, x: i32, y: i32, d: i32): f32 {
  if (l > 0) return load<f32>(field(l, 5) + <usize>(y * <i32>field(l, 0) + x) * 16 + d * 4);
  const w = <i32>field(l, 0), h = <i32>field(l, 1);
  const nx = x + (d == 0 ? -1 : d == 1 ? 1 : 0), ny = y + (d == 2 ? -1 : d == 3 ? 1 : 0);
  if (nx < 0 || ny < 0 || nx >= w || ny >= h) return 0;
  return load<u8>(field(l, 2) + <usize>(ny * w + nx)) == 0 ? 0 : 1;
}

/** Two links in a row, scaled so that unit links give a unit link (Shortley & Weller's rule at irregular boundaries). */
function series(l: i32, x: i32, y: i32, d: i32): f32 {
  const a = weightOf(l, x, y, d);
  if (a <= 0) return 2 * a;
  const w = <i32>field(l, 0), kind = field(l, 2);
  const mx = x + (d == 0 ? -1 : d == 1 ? 1 : 0), my = y + (d == 2 ? -1 : d == 3 ? 1 : 0);
  if (load<u8>(kind + <usize>(my * w + mx)) == FIXED) return -2 * a;
  const b = weightOf(l, mx, my, d);
  return b == 0 ? 0 : 2 * a * b / (a + abs<f32>(b));
}

// @ts-ignore: decorator
@inline function greatest(a: v128): f32 {
  return max(max(f32x4.extract_lane(a, 0), f32x4.extract_lane(a, 1)), max(f32x4.extract_lane(a, 2), f32x4.extract_lane(a, 3)));
}

/** Relaxes the points of one colour in a row. @returns the greatest changes so far */
function relaxRow(l: i32, y: i32, colour: i32, largest: v128): v128 {
  const w = <i32>field(l, 0), kind = field(l, 2), u = field(l, 3), f = field(l, 4);
  const row = <usize>w << 4;
  const quarter = f32x4.splat(0.25);
  for (let r = firstRun(l, y); r < lastRun(l, y); r++)
  for (let x = runFrom(l, r) + ((runFrom(l, r) + y + colour) & 1); x < runTo(l, r); x += 2) {
    const i = <usize>(y * w + x);
    const k = load<u8>(kind + i);
    if (k == FREE) {
      const p = u + (i << 4);
      let sum = f32x4.add(f32x4.add(v128.load(p - 16), v128.load(p + 16)), f32x4.add(v128.load(p - row), v128.load(p + row)));
      if (f) sum = f32x4.add(sum, v128.load(f + (i << 4)));
      const v = f32x4.mul(sum, quarter);
      largest = f32x4.max(largest, f32x4.abs(f32x4.sub(v, v128.load(p))));
      v128.store(p, v);
    } else if (k == EDGE) {
      const p = u + (i << 4);
      let sum = f ? v128.load(f + (i << 4)) : f32x4.splat(0);
      let diagonal: f32 = 0;
      for (let d = 0; d < 4; d++) {
        const wt = weightOf(l, x, y, d);
        diagonal += abs<f32>(wt);
        if (wt <= 0) continue;
        const q = d == 0 ? p - 16 : d == 1 ? p + 16 : d == 2 ? p - row : p + row;
        sum = f32x4.add(sum, f32x4.mul(f32x4.splat(wt), v128.load(q)));
      }
      if (diagonal == 0) continue;
      const v = f32x4.mul(sum, f32x4.splat(1 / diagonal));
      largest = f32x4.max(largest, f32x4.abs(f32x4.sub(v, v128.load(p))));
      v128.store(p, v);
    }
  }
  return largest;
}

/** One red-black sweep. The black points of a row follow as soon as the red ones round it are done: the same result as
 *  colour after colour over the whole grid, while the rows are still in the cache. */
function sweep(l: i32): f32 {
  const h = <i32>field(l, 1);
  let largest = f32x4.splat(0);
  for (let y = 0; y < h; y++) {
    largest = relaxRow(l, y, 0, largest);
    if (y > 0) largest = relaxRow(l, y - 1, 1, largest);
  }
  return greatest(relaxRow(l, h - 1, 1, largest));
}

function residualRow(l: i32, y: i32, out: usize): void {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3), f = field(l, 4);
  const row = <usize>w << 4;
  memory.fill(out, 0, row);
  if (y < 0 || y >= h) return;
  const four = f32x4.splat(4);
  for (let r = firstRun(l, y); r < lastRun(l, y); r++)
  for (let x = runFrom(l, r); x < runTo(l, r); x++) {
    const i = <usize>(y * w + x);
    const k = load<u8>(kind + i);
    let rest = f32x4.splat(0);
    const p = u + (i << 4);
    if (k == FREE) {
      rest = f32x4.sub(f32x4.add(f32x4.add(v128.load(p - 16), v128.load(p + 16)), f32x4.add(v128.load(p - row), v128.load(p + row))), f32x4.mul(four, v128.load(p)));
      if (f) rest = f32x4.add(rest, v128.load(f + (i << 4)));
    } else if (k == EDGE) {
      if (f) rest = v128.load(f + (i << 4));
      const here = v128.load(p);
      for (let d = 0; d < 4; d++) {
        const wt = weightOf(l, x, y, d);
        if (wt < 0) rest = f32x4.add(rest, f32x4.mul(f32x4.splat(wt), here));
        if (wt <= 0) continue;
        const q = d == 0 ? p - 16 : d == 1 ? p + 16 : d == 2 ? p - row : p + row;
        rest = f32x4.add(rest, f32x4.mul(f32x4.splat(wt), f32x4.sub(v128.load(q), here)));
      }
    }
    v128.store(out + (<usize>x << 4), rest);
  }
}

function restrict(l: i32): bool {
  const w = <i32>field(l, 0);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), ck = field(l + 1, 2), cf = field(l + 1, 4);
  const keep = top;
  const line = <usize>w << 4;
  let a = claim(line), b = claim(line), c = claim(line);
  if (!a || !b || !c) return false;
  residualRow(l, -1, c);
  const two = f32x4.splat(2), quarter = f32x4.splat(0.25);
  for (let y = 0; y < ch; y++) {
    const t = a; a = c; c = t;
    if (y == 0) residualRow(l, -1, a);
    residualRow(l, 2 * y, b);
    residualRow(l, 2 * y + 1, c);
    for (let r = firstRun(l + 1, y); r < lastRun(l + 1, y); r++)
    for (let x = runFrom(l + 1, r); x < runTo(l + 1, r); x++) {
      const j = <usize>(y * cw + x);
      if ((load<u8>(ck + j) & 1) == 0) continue;
      const at = <usize>(2 * x) << 4;
      let sum = f32x4.mul(two, f32x4.add(f32x4.add(v128.load(a + at), v128.load(c + at)), f32x4.mul(two, v128.load(b + at))));
      if (x > 0) sum = f32x4.add(sum, f32x4.add(f32x4.add(v128.load(a + at - 16), v128.load(c + at - 16)), f32x4.mul(two, v128.load(b + at - 16))));
      if (2 * x + 1 < w) sum = f32x4.add(sum, f32x4.add(f32x4.add(v128.load(a + at + 16), v128.load(c + at + 16)), f32x4.mul(two, v128.load(b + at + 16))));
      v128.store(cf + (j << 4), f32x4.mul(sum, quarter));
    }
  }
  top = keep;
  return true;
}

function correct(l: i32): f32 {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), e = field(l + 1, 3);
  let largest = f32x4.splat(0);
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const i = <usize>(y * w + x);
      if ((load<u8>(kind + i) & 1) == 0) continue;
      const d = between(e, cw, ch, x, y);
      const p = u + (i << 4);
      v128.store(p, f32x4.add(v128.load(p), d));
      largest = f32x4.max(largest, f32x4.abs(d));
    }
  }
  return greatest(largest);
}

let smoothings: i32 = 1;

function cycle(l: i32): f32 {
  if (l == count - 1) {
    let change: f32 = 0;
    for (let k = 0; k < 80; k++) { change = sweep(l); if (change < 1e-8) break; }
    return change;
  }
  for (let k = 0; k < smoothings; k++) sweep(l);
  if (!restrict(l)) return 0;
  memory.fill(field(l + 1, 3), 0, <usize>(<i32>field(l + 1, 0) * <i32>field(l + 1, 1)) << 4);
  cycle(l + 1);
  const corrected = correct(l);
  let last: f32 = 0;
  for (let k = 0; k < smoothings; k++) last = sweep(l);
  return corrected + last;
}

/** Start values: everywhere the mean of the rim. */
function startEvenly(): void {
  const w = <i32>field(0, 0), h = <i32>field(0, 1), kind = field(0, 2), u = field(0, 3);
  let sum = f32x4.splat(0);
  let rims = 0;
  for (let y = 0; y < h; y++) {
    let row = f32x4.splat(0);
    for (let x = 0; x < w; x++) {
      const i = <usize>(y * w + x);
      if (load<u8>(kind + i) != FIXED || !besideFree(kind + i, x, y, w, h)) continue;
      row = f32x4.add(row, v128.load(u + (i << 4)));
      rims++;
    }
    sum = f32x4.add(sum, row);
  }
  const mean = f32x4.mul(sum, f32x4.splat(rims > 0 ? 1 / <f32>rims : 0));
  for (let i: usize = 0; i < <usize>w * h; i++) if (load<u8>(kind + i) & 1) v128.store(u + (i << 4), mean);
}

// @ts-ignore: decorator
@inline function besideFree(at: usize, x: i32, y: i32, w: i32, h: i32): bool {
  return (x > 0 && (load<u8>(at - 1) & 1)) || (x < w - 1 && (load<u8>(at + 1) & 1)) || (y > 0 && (load<u8>(at - w) & 1)) || (y < h - 1 && (load<u8>(at + w) & 1));
}

/** Start values: the rim's values averaged up a pyramid (pull) and spread down into the free points (push). */
function spread(): bool {
  const w = <i32>field(0, 0), h = <i32>field(0, 1), kind = field(0, 2), u = field(0, 3);
  const keep = top;
  const weight = claim(<usize>w * h * 4);
  if (!weight) return false;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = <usize>(y * w + x);
      const k = load<u8>(kind + i);
      if (k & 1) v128.store(u + (i << 4), f32x4.splat(0));
      else if (k == FIXED && besideFree(kind + i, x, y, w, h))
        store<f32>(weight + (i << 2), 1);
    }
  const ok = pullPush(w, h, u, weight, kind);
  top = keep;
  return ok;
}

function pullPush(w: i32, h: i32, value: usize, weight: usize, kind: usize): bool {
  if (w * h <= 1) return true;
  const cw = (w + 1) >> 1, ch = (h + 1) >> 1;
  const cv = claim(<usize>(cw * ch) << 4), cwt = claim(<usize>(cw * ch) << 2);
  if (!cv || !cwt) return false;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = <usize>(y * w + x);
      const wt = load<f32>(weight + (i << 2));
      if (wt == 0) continue;
      const j = <usize>((y >> 1) * cw + (x >> 1));
      store<f32>(cwt + (j << 2), load<f32>(cwt + (j << 2)) + wt);
      v128.store(cv + (j << 4), f32x4.add(v128.load(cv + (j << 4)), f32x4.mul(f32x4.splat(wt), v128.load(value + (i << 4)))));
    }
  for (let j: usize = 0; j < <usize>(cw * ch); j++) {
    const wt = load<f32>(cwt + (j << 2));
    if (wt == 0) continue;
    v128.store(cv + (j << 4), f32x4.mul(v128.load(cv + (j << 4)), f32x4.splat(1 / wt)));
    store<f32>(cwt + (j << 2), min<f32>(1, wt));
  }
  if (!pullPush(cw, ch, cv, cwt, 0)) return false;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = <usize>(y * w + x);
      const wt = load<f32>(weight + (i << 2));
      if (wt >= 1 || (kind && (load<u8>(kind + i) & 1) == 0)) continue;
      const fx = min<f32>(<f32>(cw - 1), max<f32>(0, (<f32>x - 0.5) * 0.5)), fy = min<f32>(<f32>(ch - 1), max<f32>(0, (<f32>y - 0.5) * 0.5));
      const x0 = <i32>fx, y0 = <i32>fy;
      const x1 = min(cw - 1, x0 + 1), y1 = min(ch - 1, y0 + 1);
      const tx = f32x4.splat(fx - <f32>x0), ty = f32x4.splat(fy - <f32>y0);
      const a = v128.load(cv + (<usize>(y0 * cw + x0) << 4)), b = v128.load(cv + (<usize>(y0 * cw + x1) << 4));
      const c = v128.load(cv + (<usize>(y1 * cw + x0) << 4)), d = v128.load(cv + (<usize>(y1 * cw + x1) << 4));
      const upper = f32x4.add(a, f32x4.mul(tx, f32x4.sub(b, a))), lower = f32x4.add(c, f32x4.mul(tx, f32x4.sub(d, c)));
      const v = f32x4.add(upper, f32x4.mul(ty, f32x4.sub(lower, upper)));
      const old = v128.load(value + (i << 4));
      v128.store(value + (i << 4), f32x4.add(v, f32x4.mul(f32x4.splat(wt), f32x4.sub(old, v))));
      store<f32>(weight + (i << 2), 1);
    }
  return true;
}
