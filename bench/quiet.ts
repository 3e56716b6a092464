import { spreadOf } from './report';

/** Longest that a figure waits for a quiet machine. */
const mostWaitMs = 90_000;
const stepMs = 3000;
/** So many times slower than at its best, it is busy. */
const busy = 1.25;

let best = Number.POSITIVE_INFINITY;

/** Waits, some time, until the machine computes about as fast as this run has seen it do: what others do on it, or that it holds
 *  back after minutes of hard work, is no part of a figure. @returns how many times slower than at its best it then is */
export async function quiet(): Promise<number> {
  let slower = probe();
  for (const until = Date.now() + mostWaitMs; slower > busy && Date.now() < until; slower = probe())
    await new Promise((done) => setTimeout(done, stepMs));
  return slower;
}

function probe(): number {
  const times: number[] = [];
  for (let run = 0; run < 9; run++) {
    const start = performance.now();
    let sum = 0;
    for (let i = 1; i < 3_000_000; i++) sum += Math.sqrt(i);
    times.push(performance.now() - start + 0 * sum);
  }
  const { median } = spreadOf(times);
  best = Math.min(best, median);
  return median / best;
}
