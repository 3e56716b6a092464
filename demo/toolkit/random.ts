import { makeRandom, type Random } from '../../src/core/random';

/** A seeded stream with the distributions that made-up nature needs. */
export interface Dice extends Random {
  between(low: number, high: number): number;
  /** Normal distribution (Box & Muller 1958, doi:10.1214/aoms/1177706645). */
  normal(mean?: number, deviation?: number): number;
  pick<T>(from: readonly T[]): T;
}

export function makeDice(seed: number): Dice {
  const random = makeRandom(seed);
  return {
    ...random,
    between: (low, high) => low + (high - low) * random.next(),
    normal: (mean = 0, deviation = 1) =>
      mean + deviation * Math.sqrt(-2 * Math.log(1 - random.next())) * Math.cos(2 * Math.PI * random.next()),
    pick: (from) => from[random.below(from.length)],
  };
}
