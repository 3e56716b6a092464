'use client';
import { X } from 'lucide-react';
import { Dialog, Progress, RadioGroup } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { messageOf } from '../../core/errors';
import { fileStem, makeJobFile } from '../../editor';
import type { FlatFormat } from '../../runtime/engine/protocol';
import { Button } from '../controls/button';
import { saveFile } from '../controls/save-file';
import { SliderRow } from '../controls/slider-row';
import { useBench, useSession } from './use-session';

type Choice = FlatFormat['kind'] | 'job';

const choices: readonly { id: Choice; title: string; says: string }[] = [
  { id: 'png', title: 'PNG', says: 'Every pixel exact; keeps 16 bits and transparency.' },
  { id: 'jpeg', title: 'JPEG', says: 'Small; for the web and for most printers. 8 bits.' },
  { id: 'webp', title: 'WebP', says: 'Smaller still; for the web. 8 bits.' },
  {
    id: 'job',
    title: 'Whole job',
    says: 'One open file with the original, every mend and every try. Opens again here.',
  },
];

export function ExportDialog({ children }: { children: ReactNode }) {
  const session = useSession();
  const job = useBench((s) => s.job);
  const missing = useBench((s) => Object.values(s.mendStates).filter((m) => m.state !== 'stale').length);
  const [choice, setChoice] = useState<Choice>('png');
  const [quality, setQuality] = useState(92);
  const [share, setShare] = useState<number | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  if (!job) return children;

  const run = async () => {
    setSaid(null);
    setShare(0);
    try {
      if (choice === 'job') {
        const { name, file } = await makeJobFile(job.id, session.jobs);
        saveFile(file, name);
        setSaid(`${name} was written.`);
      } else {
        const bytes = await session.pictures.flatten({ kind: choice, quality }, setShare);
        const name = `${fileStem(job.title)}.${choice === 'jpeg' ? 'jpg' : choice}`;
        saveFile(new Blob([bytes], { type: `image/${choice}` }), name);
        setSaid(`${name} was written: ${(bytes.length / 1e6).toFixed(1)} MB.`);
      }
    } catch (error) {
      setSaid(`Nothing was written: ${messageOf(error)}`);
    } finally {
      setShare(null);
    }
  };

  return (
    <Dialog.Root>
      <Dialog.Trigger asChild>{children}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-40 w-[min(420px,calc(100vw-24px))] -translate-x-1/2 -translate-y-1/2 rounded-2xl bg-sheet p-5 shadow-2xl"
        >
          <div className="flex items-center">
            <Dialog.Title className="grow text-[17px] font-semibold">Export</Dialog.Title>
            <Dialog.Close
              aria-label="Close"
              className="grid size-8 place-items-center rounded-lg hover:bg-quiet"
            >
              <X className="size-4" aria-hidden />
            </Dialog.Close>
          </div>
          <p className="mb-3 text-faint">
            Flat pictures have the photo’s full size, {job.photo.width} × {job.photo.height}.
          </p>
          <RadioGroup.Root
            value={choice}
            onValueChange={(v) => setChoice(v as Choice)}
            aria-label="Kind of file"
            className="space-y-1"
          >
            {choices.map(({ id, title, says }) => (
              <RadioGroup.Item
                key={id}
                value={id}
                className="flex w-full items-start gap-3 rounded-xl border border-line p-3 text-left hover:bg-paper data-[state=checked]:border-ink data-[state=checked]:bg-paper"
              >
                <span className="mt-0.5 grid size-4 shrink-0 place-items-center rounded-full border border-ink">
                  <RadioGroup.Indicator className="size-2 rounded-full bg-ink" />
                </span>
                <span>
                  <span className="block font-semibold">{title}</span>
                  <span className="block text-faint">{says}</span>
                </span>
              </RadioGroup.Item>
            ))}
          </RadioGroup.Root>
          {(choice === 'jpeg' || choice === 'webp') && (
            <div className="mt-3">
              <SliderRow
                label="Quality"
                value={quality}
                min={40}
                max={100}
                unit=""
                onShow={setQuality}
                onSet={setQuality}
              />
            </div>
          )}
          {missing > 0 && choice !== 'job' && (
            <p className="mt-3 rounded-lg bg-warn-soft px-3 py-2">
              {missing === 1 ? 'One mend is' : `${missing} mends are`} not computed and will be missing from
              the picture.
            </p>
          )}
          {share !== null && (
            <Progress.Root
              value={Math.round(share * 100)}
              aria-label="Export"
              className="mt-3 h-1.5 overflow-hidden rounded-full bg-quiet"
            >
              <Progress.Indicator
                className="h-full bg-mended"
                style={{ width: `${Math.max(4, share * 100)}%` }}
              />
            </Progress.Root>
          )}
          <p role="status" className="mt-3 min-h-5">
            {share !== null ? (share < 1 ? 'Putting the picture together …' : 'Writing the file …') : said}
          </p>
          <div className="mt-2 flex justify-end">
            <Button tone="strong" disabled={share !== null} onClick={() => void run()}>
              Write file
            </Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
