/** A seeded stream of numbers (xorshift128, Marsaglia 2003, doi:10.18637/jss.v008.i14; state filled by
 *  splitmix32). The same seed gives the same numbers on every machine. */
export interface Random {
  /** Uniform in 0 ≤ x < 1. */
  next(): number;
  /** Uniform whole number in 0 ≤ n < count. */
  below(count: number): number;
}

export function makeRandom(seed: number): Random {
  let s = seed >>> 0;
  const split = () => {
    s = (s + 0x9e3779b9) >>> 0;
    let z = s;
    z = Math.imul(z ^ (z >>> 16), 0x21f0aaad);
    z = Math.imul(z ^ (z >>> 15), 0x735a2d97);
    return (z ^ (z >>> 15)) >>> 0;
  };
  let a = split();
  let b = split();
  let c = split();
  let d = split() | 1;
  const word = () => {
    let t = d;
    d = c;
    c = b;
    b = a;
    t ^= t << 11;
    t ^= t >>> 8;
    a = (t ^ a ^ (a >>> 19)) >>> 0;
    return a;
  };
  return { next: () => word() / 4294967296, below: (count) => Math.floor((word() / 4294967296) * count) };
}

/** Four bytes that depend on a place alone, and look random. */
export function hashAt(x: number, y: number): number {
  let h = Math.imul(x, 0x27d4eb2d) ^ Math.imul(y, 0x165667b1);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39);
  return (h ^ (h >>> 15)) >>> 0;
}

/** A 64-bit content key (two 32-bit FNV-1a style lanes, mixed); for caches, not for security. */
function mixedKey(length: number, at: (i: number) => number): string {
  let h1 = 0xdeadbeef;
  let h2 = 0x41c6ce57;
  for (let i = 0; i < length; i++) {
    const v = at(i);
    h1 = Math.imul(h1 ^ v, 2654435761);
    h2 = Math.imul(h2 ^ v, 1597334677);
  }
  h1 = Math.imul(h1 ^ (h1 >>> 16), 2246822507) ^ Math.imul(h2 ^ (h2 >>> 13), 3266489909);
  h2 = Math.imul(h2 ^ (h2 >>> 16), 2246822507) ^ Math.imul(h1 ^ (h1 >>> 13), 3266489909);
  return (h2 >>> 0).toString(36) + (h1 >>> 0).toString(36);
}

/** Content key of a string. */
export const contentKey = (text: string): string => mixedKey(text.length, (i) => text.charCodeAt(i));

/** Content key of bytes. */
export const contentKeyOf = (bytes: Uint8Array): string => mixedKey(bytes.length, (i) => bytes[i]);
