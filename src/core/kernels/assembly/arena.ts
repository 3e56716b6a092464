// Memory that a kernel hands out piece by piece and takes back all at once. AssemblyScript.

let top: usize = 0;

export function release(): void { top = __heap_base; }

/** @returns 16-byte aligned, or 0 when there is no more */
export function claim(bytes: i32): usize {
  const at = (top + 15) & ~15;
  top = at + <usize>bytes;
  const need = <i32>((top + 65535) >> 16) - memory.size();
  if (need > 0 && memory.grow(need) < 0) return 0;
  return at;
}
