/** Parts of a picture that hang together over sides and corners, as lists of its pixels. */
export function connected(set: Uint8Array, w: number, h: number): number[][] {
  const seen = new Uint8Array(set.length);
  const out: number[][] = [];
  for (let i = 0; i < set.length; i++) {
    if (!set[i] || seen[i]) continue;
    const part = [i];
    seen[i] = 1;
    for (let k = 0; k < part.length; k++) {
      const x = part[k] % w;
      const y = (part[k] - x) / w;
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          if (x + dx < 0 || x + dx >= w || y + dy < 0 || y + dy >= h) continue;
          const j = part[k] + dy * w + dx;
          if (!set[j] || seen[j]) continue;
          seen[j] = 1;
          part.push(j);
        }
    }
    out.push(part);
  }
  return out;
}

/** What of a set hangs together, over sides and corners, with those of its pixels that are given. @returns w·h, 1 or 0
 *  Cost: O(w·h), looking at each pixel twice: rows are taken run by run. */
export function joinedTo(
  isGiven: (pixel: number) => boolean,
  set: Uint8Array,
  w: number,
  h: number,
): Uint8Array<ArrayBuffer> {
  /** Of each run its first pixel, the one behind its last, and a run that it hangs together with: itself, or an earlier one. */
  const starts: number[] = [];
  const ends: number[] = [];
  const leads: number[] = [];
  const given: boolean[] = [];
  const leader = (run: number): number => {
    let at = run;
    while (leads[at] !== at) {
      leads[at] = leads[leads[at]];
      at = leads[at];
    }
    return at;
  };
  let above = 0;
  for (let y = 0; y < h; y++) {
    const first = starts.length;
    for (let i = y * w; i < (y + 1) * w; i++) {
      if (!set[i]) continue;
      const run = starts.length;
      const start = i;
      let has = false;
      for (; i < (y + 1) * w && set[i]; i++) has ||= isGiven(i);
      starts.push(start);
      ends.push(i);
      leads.push(run);
      given.push(has);
      // Runs of the row above that end before this one begins end before all that follow, too.
      while (above < first && ends[above] + w < start) above++;
      for (let k = above; k < first && starts[k] + w <= i; k++) {
        const [one, other] = [leader(k), leader(run)];
        if (one === other) continue;
        const [low, high] = [Math.min(one, other), Math.max(one, other)];
        leads[high] = low;
        given[low] ||= given[high];
      }
    }
    above = first;
  }
  const joined = new Uint8Array(set.length);
  for (let run = 0; run < starts.length; run++)
    if (given[leader(run)]) joined.fill(1, starts[run], ends[run]);
  return joined;
}
