// Start values. AssemblyScript.

import { claim, claimAsIs, field, FIXED, giveBack, top } from './levels';

/** Fixed points beside free ones, in reading order: how many, and their numbers. 0 when memory is short. */
export function listRim(kind: usize, w: i32, h: i32): usize {
  const out = claimAsIs(16);
  if (!out) return 0;
  const fixed = i8x16.splat(FIXED), one = i8x16.splat(1);
  let count = 0;
  for (let y = 0; y < h; y++) {
    // All of a row may be listed; what was claimed before follows on without a gap.
    if (!claimAsIs((<usize>w << 2) + 15 & ~15)) return 0;
    for (let x = 0; x < w; x++) {
      const at = kind + <usize>(y * w + x);
      if (x > 0 && y > 0 && x + 17 <= w && y + 1 < h && !v128.any_true(v128.and(i8x16.eq(v128.load(at), fixed), i8x16.eq(v128.and(freeBeside(at, w), one), one)))) { x += 15; continue; }
      if (load<u8>(at) != FIXED || !besideFree(at, x, y, w, h)) continue;
      count++;
      store<i32>(out + (<usize>count << 2), y * w + x);
    }
  }
  store<i32>(out, count);
  return out;
}

/** Of sixteen points: their lowest bit tells whether there is a free one beside each. */
// @ts-ignore: decorator
@inline function freeBeside(at: usize, w: i32): v128 { return v128.or(v128.or(v128.load(at - 1), v128.load(at + 1)), v128.or(v128.load(at - w), v128.load(at + w))); }

// @ts-ignore: decorator
@inline function besideFree(at: usize, x: i32, y: i32, w: i32, h: i32): bool {
  return (x > 0 && (load<u8>(at - 1) & 1)) || (x < w - 1 && (load<u8>(at + 1) & 1)) || (y > 0 && (load<u8>(at - w) & 1)) || (y < h - 1 && (load<u8>(at + w) & 1));
}

/** Start values: the rim's values averaged up a pyramid (pull) and spread down into the free points (push). */
export function spread(): bool {
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
  giveBack(keep);
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
