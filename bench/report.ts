/** Figures of a run, printed as they come: each with what it is compared to and what is aimed at. */

export interface Spread {
  readonly median: number;
  readonly p95: number;
  readonly low: number;
  readonly high: number;
  readonly count: number;
}

export function spreadOf(values: readonly number[]): Spread {
  const sorted = [...values].sort((a, b) => a - b);
  const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))];
  return {
    median: at(0.5),
    p95: at(0.95),
    low: sorted[0],
    high: sorted[sorted.length - 1],
    count: sorted.length,
  };
}

export const ms = (v: number): string =>
  v >= 1000 ? `${(v / 1000).toFixed(2)} s` : `${v.toFixed(v < 20 ? 1 : 0)} ms`;

export const told = (s: Spread): string => `${ms(s.median)} (${ms(s.low)} to ${ms(s.high)}, ${s.count} runs)`;

export function headline(text: string): void {
  console.log(`\n${text}`);
}

export function line(label: string, value: string): void {
  console.log(`  ${label.padEnd(44)} ${value}`);
}

/** A figure with an aim: at most so much. */
export function aimed(label: string, value: number, most: number, digits = 2): void {
  line(label, `${value.toFixed(digits)}   aim ≤ ${most}: ${value <= most ? 'met' : 'missed'}`);
}

/** Runs something several times after one run that does not count. @returns milliseconds of each */
export async function timed(runs: number, work: () => unknown): Promise<number[]> {
  await work();
  const out: number[] = [];
  for (let i = 0; i < runs; i++) {
    const start = performance.now();
    await work();
    out.push(performance.now() - start);
  }
  return out;
}
