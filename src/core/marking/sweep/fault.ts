import type { Found } from '../found';

export interface SweepOptions {
  /** The widest fault, across its narrower way, in pixels, 2…60. */
  readonly mostPx: number;
  readonly light: boolean;
  readonly dark: boolean;
}

/** Something small that does not belong to its surroundings. */
export interface Fault extends Found {
  readonly kind: 'speck' | 'line';
  readonly isDark: boolean;
  /** Pixels. */
  readonly size: number;
  /** Difference from the surroundings, in CIELAB lightness. */
  readonly contrast: number;
  /** Log-odds that it is a fault: the higher, the surer. */
  readonly likelihood: number;
}

/** Log-odds that count at no and at full sensitivity. Anything surer than the latter is found. */
const surest = 4.14;
export const leastSure = -3;

/** Those that count at a sensitivity of 0…100: how unsure a fault may be.
 *  @param faults  as a sweep gives them; those that count come first */
export function faultsAt(faults: readonly Fault[], sensitivity: number): readonly Fault[] {
  const least = leastSure + (surest - leastSure) * (1 - sensitivity / 100);
  const end = faults.findIndex(({ likelihood }) => likelihood < least);
  return end < 0 ? faults : faults.slice(0, end);
}
