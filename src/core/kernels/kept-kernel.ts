import { instantiateKernel } from './instantiate';

/** What kernels have that hand out their memory piece by piece. */
interface Arena {
  release(): void;
  /** @returns where so many bytes begin; 0 when there are no more */
  claim(bytes: number): number;
}

/** WebAssembly memory never shrinks, so an instance that grew beyond this is let go. */
export const keepBytes = 32 << 20;

/** A kernel that is made when it is first wanted, and kept.
 *  @returns a function that takes back all that was handed out before, and hands out pieces of these sizes in bytes */
export function keptKernel<T extends Arena>(wasmBase64: string) {
  let kept: (T & { memory: WebAssembly.Memory }) | null = null;
  /** @throws RangeError when memory is short */
  return (sizes: readonly number[]) => {
    kept ??= instantiateKernel<T>(wasmBase64);
    const kernel = kept;
    kernel.release();
    const at = sizes.map((size) => kernel.claim(size));
    if (at.includes(0)) throw new RangeError('There is not enough memory for a kernel.');
    const { buffer } = kernel.memory;
    if (buffer.byteLength > keepBytes) kept = null;
    return { kernel, buffer, at };
  };
}
