import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { number, object, string } from 'yup';
import type { DemoCard } from '../../../ui/shelf/demo-card';

const folder = () => join(process.cwd(), 'demo', 'jobs');

const cardSchema = object({
  order: number().required(),
  title: string().required(),
  caption: string().required(),
  asked: string().required(),
  mends: number().required(),
  width: number().required(),
  height: number().required(),
}).required();

/** The demo jobs that ship, in their order. */
export async function listDemoJobs(): Promise<DemoCard[]> {
  const names = await readdir(folder(), { withFileTypes: true });
  const cards = await Promise.all(
    names
      .filter((entry) => entry.isDirectory())
      .map(async ({ name }) => {
        const text = await readFile(join(folder(), name, 'card.json'), 'utf8');
        return { id: name, ...cardSchema.validateSync(JSON.parse(text), { strict: true }) };
      }),
  );
  return cards.sort((a, b) => a.order - b.order);
}

const pictures = {
  'job.vine.zip': 'application/zip',
  'before.jpg': 'image/jpeg',
  'after.jpg': 'image/jpeg',
} as const;

/** A file of a demo job; null when there is none. Names are checked against what exists, so no path can lead elsewhere. */
export async function readDemoFile(
  id: string,
  name: string,
): Promise<{ bytes: Buffer<ArrayBuffer>; type: string } | null> {
  const type = Object.hasOwn(pictures, name) ? pictures[name as keyof typeof pictures] : null;
  const known = (await readdir(folder())).includes(id);
  if (!type || !known) return null;
  const bytes = await readFile(join(folder(), id, name));
  return { bytes: bytes as Buffer<ArrayBuffer>, type };
}
