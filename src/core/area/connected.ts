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
