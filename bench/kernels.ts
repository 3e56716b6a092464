import { makeRandom } from '../src/core/random';
import { point, solveMembrane } from '../src/core/solve';
import { aimed, headline, line, spreadOf, timed, told } from './report';

/** The membrane kernel against the same V-cycle's smoother written plainly in TypeScript, per full sweep of the grid. */
export async function benchKernels(): Promise<void> {
  headline('Kernels: WebAssembly with SIMD against plain TypeScript');
  const w = 512;
  const kind = new Uint8Array(w * w).fill(point.free);
  for (let k = 0; k < w; k++)
    kind[k] = kind[(w - 1) * w + k] = kind[k * w] = kind[k * w + w - 1] = point.fixed;
  const random = makeRandom(1);
  const rim = new Float32Array(w * w * 4);
  kind.forEach((v, i) => {
    if (v === point.fixed) for (let c = 0; c < 4; c++) rim[4 * i + c] = random.next();
  });
  const solved = spreadOf(await timed(9, () => solveMembrane(w, w, kind, rim.slice())));
  let sweeps = 0;
  const plain = spreadOf(
    await timed(3, () => {
      sweeps = relaxPlainly(w, kind, rim.slice());
    }),
  );
  line('multigrid kernel, 512×512, solved', told(solved));
  line(`plain relaxation, ${sweeps} sweeps, far from solved`, told(plain));
  aimed('kernel solved over plain unsolved', solved.median / plain.median, 1);
}

/** Thirty red-black Gauss–Seidel sweeps: about the arithmetic of the kernel's solution, without its result. */
function relaxPlainly(w: number, kind: Uint8Array, u: Float32Array): number {
  const sweeps = 30;
  for (let k = 0; k < 2 * sweeps; k++)
    for (let y = 1; y < w - 1; y++)
      for (let x = 1 + ((y + k) & 1); x < w - 1; x += 2) {
        const i = y * w + x;
        if (kind[i] !== point.free) continue;
        for (let c = 4 * i; c < 4 * i + 4; c++)
          u[c] = (u[c - 4] + u[c + 4] + u[c - 4 * w] + u[c + 4 * w]) / 4;
      }
  return sweeps;
}
