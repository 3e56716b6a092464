/** Vine Needle without a browser: applies sheets to photos and renders job files. docs/headless.md has examples. */
import { writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import { parseArgs } from 'node:util';
import { InputError, messageOf } from '../core/errors';
import { writeJobFile } from '../core/formats';
import { encodeFlat } from '../runtime/codecs/flat-picture';
import type { FlatFormat } from '../runtime/engine/protocol';
import { applySheet, type Rendered, renderBundle, renderJobFile } from './apply';
import { nodeCodecs } from './node-codecs';

const usage = `Usage:
  npm run headless -- apply --photo in.png --sheet sheet.json --out out.png [--job out.vine.zip] [--quality 92]
  npm run headless -- render job.vine.zip --out out.png [--quality 92]
The ending of --out chooses PNG, JPEG or WebP.`;

interface Options {
  readonly photo?: string;
  readonly sheet?: string;
  readonly out?: string;
  readonly job?: string;
  readonly quality?: string;
}

function need(value: string | undefined, name: string): string {
  if (!value) throw new InputError('usage', `${name} is missing.\n${usage}`);
  return value;
}

function formatOf(out: string, quality: string | undefined): FlatFormat {
  const kind = ({ '.png': 'png', '.jpg': 'jpeg', '.jpeg': 'jpeg', '.webp': 'webp' } as const)[
    extname(out).toLowerCase()
  ];
  if (!kind) throw new InputError('usage', `${out} must end in .png, .jpg or .webp.`);
  const value = quality === undefined ? 92 : Number(quality);
  if (!(value >= 1 && value <= 100))
    throw new InputError('usage', `--quality must be a number from 1 to 100, not ${quality}.`);
  return { kind, quality: value };
}

async function write(out: string, { picture, warnings }: Rendered, format: FlatFormat): Promise<void> {
  await writeFile(out, await encodeFlat(picture, format, nodeCodecs));
  for (const warning of warnings) console.error(`Note: ${warning}`);
  console.log(`${out}: ${picture.width} × ${picture.height}, ${picture.depth} bits.`);
}

async function main(args: string[]): Promise<void> {
  let parsed: { values: Options; positionals: string[] };
  try {
    const text = { type: 'string' } as const;
    parsed = parseArgs({
      args,
      allowPositionals: true,
      options: { photo: text, sheet: text, out: text, job: text, quality: text },
    });
  } catch (error) {
    throw new InputError('usage', `${messageOf(error)}\n${usage}`);
  }
  const { values, positionals } = parsed;
  const [command, file] = positionals;
  if (command !== 'apply' && command !== 'render') throw new InputError('usage', usage);
  const out = need(values.out, '--out');
  const format = formatOf(out, values.quality);
  if (command === 'render') return write(out, await renderJobFile(need(file, 'The job file')), format);
  const bundle = await applySheet(need(values.photo, '--photo'), need(values.sheet, '--sheet'));
  await write(out, renderBundle(bundle), format);
  if (values.job) await writeFile(values.job, writeJobFile(bundle));
}

main(process.argv.slice(2)).catch((error: unknown) => {
  console.error(error instanceof InputError ? error.message : `This failed: ${messageOf(error)}`);
  process.exitCode = error instanceof InputError ? 2 : 1;
});
