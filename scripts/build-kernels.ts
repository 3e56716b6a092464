/** Compiles the AssemblyScript kernels and writes each as a TypeScript module with the bytes in base64, so that
 *  workers, tests and Node load them the same way and without a request. `--check` compares instead of writing. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import asc from 'assemblyscript/asc';

const folder = join(import.meta.dirname, '..', 'src', 'core', 'kernels');
const names = [
  'bars',
  'bends',
  'detail',
  'distance',
  'edges',
  'frames',
  'gaussian',
  'grain',
  'line-fit',
  'look',
  'membrane',
  'patch-search',
  'resample',
  'rows',
  'seam-cut',
  'thin-lines',
];
const checking = process.argv.includes('--check');
let stale = false;

for (const name of names) {
  const source = join(folder, 'assembly', `${name}.ts`);
  let bytes: Uint8Array | null = null;
  const { error, stderr } = await asc.main(
    [
      source,
      '--outFile',
      'out.wasm',
      '-O3',
      '--enable',
      'simd',
      '--runtime',
      'stub',
      '--noAssert',
      '--baseDir',
      '/',
    ],
    {
      writeFile: (file: string, contents: Uint8Array | string) => {
        if (basename(file) === 'out.wasm') bytes = contents as Uint8Array;
      },
    },
  );
  if (error || !bytes) {
    console.error(stderr.toString());
    throw error ?? new Error(`${name}: nothing was compiled`);
  }
  const base64 = Buffer.from(bytes).toString('base64');
  const file = join(folder, `${name}.generated.ts`);
  const text = `// Made by scripts/build-kernels.ts from assembly/${name}.ts; do not edit.\nexport const wasmBase64 =\n  '${base64}';\n`;
  if (checking) {
    if (!existsSync(file) || readFileSync(file, 'utf8') !== text) {
      console.error(`${name}.generated.ts is out of date: run npm run build:kernels`);
      stale = true;
    }
  } else writeFileSync(file, text);
  console.log(`${name}: ${(bytes as Uint8Array).length} bytes of WebAssembly`);
}
if (stale) process.exit(1);
