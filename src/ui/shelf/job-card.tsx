'use client';
import { Copy, PackageOpen, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { messageOf } from '../../core/errors';
import { countMends } from '../../core/job';
import { makeJobFile } from '../../editor';
import type { JobRow, JobStore } from '../../runtime/storage';
import { BlobPicture } from '../controls/blob-picture';
import { MenuItem, MoreMenu } from '../controls/more-menu';
import { Rename } from '../controls/rename';
import { saveFile } from '../controls/save-file';

interface Props {
  row: JobRow;
  changed: string;
  store: JobStore;
  onRename: (title: string) => void;
  onDuplicate: () => void;
  onDelete: () => void;
  onProblem: (text: string) => void;
}

const megabytes = (bytes: number): string =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;

export function JobCard({ row, changed, store, onRename, onDuplicate, onDelete, onProblem }: Props) {
  const { job } = row;
  const mends = countMends(job);
  const exportJob = async () => {
    try {
      const { name, file } = await makeJobFile(row.id, store);
      saveFile(file, name);
    } catch (error) {
      onProblem(`${job.title} was not exported: ${messageOf(error)}`);
    }
  };
  return (
    <li className="overflow-hidden rounded-xl border border-line bg-sheet">
      <Link href={`/job/${row.id}`} className="relative grid aspect-[3/1] grid-cols-2 gap-px bg-line">
        <span className="sr-only">Open {job.title}:</span>
        <BlobPicture blob={row.before} alt="" className="size-full object-cover" />
        <BlobPicture blob={row.after} alt="" className="size-full object-cover" />
        <span className="absolute bottom-1 left-1 rounded bg-white/85 px-1 text-[11px]">before</span>
        <span className="absolute right-1 bottom-1 rounded bg-white/85 px-1 text-[11px]">after</span>
      </Link>
      <div className="flex items-start gap-2 p-3">
        <div className="min-w-0 grow">
          <Rename
            name={job.title}
            label="Job name"
            onRename={onRename}
            className="max-w-full text-[14px] font-semibold"
          />
          <p className="text-faint">
            {mends === 1 ? '1 mend' : `${mends} mends`} · {job.photo.width} × {job.photo.height}
          </p>
          <p className="text-faint">
            {changed} · {megabytes(row.originalBytes + row.extraBytes)} stored
          </p>
        </div>
        <MoreMenu of={job.title}>
          <MenuItem onSelect={onDuplicate}>
            <Copy className="size-4" aria-hidden /> Duplicate
          </MenuItem>
          <MenuItem onSelect={() => void exportJob()}>
            <PackageOpen className="size-4" aria-hidden /> Export job file
          </MenuItem>
          <MenuItem tone="warn" onSelect={onDelete}>
            <Trash2 className="size-4" aria-hidden /> Delete
          </MenuItem>
        </MoreMenu>
      </div>
    </li>
  );
}
