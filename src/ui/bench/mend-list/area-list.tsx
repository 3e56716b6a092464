'use client';
import { Download, FileUp, Trash2 } from 'lucide-react';
import { useRef } from 'react';
import { removeArea, renameArea } from '../../../core/job';
import { IconButton } from '../../controls/icon-button';
import { Rename } from '../../controls/rename';
import { saveFile } from '../../controls/save-file';
import { useBench, useSession } from '../use-session';

/** Marks that were kept: to be marked again, and exchanged as PNG masks. */
export function AreaList() {
  const session = useSession();
  const areas = useBench((s) => s.job?.areas);
  const readOnly = useBench((s) => s.readOnly);
  const file = useRef<HTMLInputElement>(null);
  return (
    <section aria-label="Kept areas" className="border-b border-line">
      <div className="flex h-10 items-center gap-1 pr-1 pl-3">
        <h2 className="grow font-semibold">Kept areas</h2>
        <IconButton label="Import PNG mask" disabled={readOnly} onClick={() => file.current?.click()}>
          <FileUp className="size-4" aria-hidden />
        </IconButton>
        <input
          ref={file}
          type="file"
          accept="image/png"
          aria-label="PNG mask"
          className="hidden"
          onChange={(e) => {
            const picked = e.target.files?.[0];
            e.target.value = '';
            if (picked) session.begin(session.marking.importMask(picked));
          }}
        />
      </div>
      {areas?.length === 0 && (
        <p className="px-3 pb-3 text-faint">
          None yet. Mark something and choose Keep, or import a PNG mask.
        </p>
      )}
      <ul>
        {areas?.map((named) => (
          <li key={named.id} className="flex h-9 items-center gap-0.5 pr-1 pl-3 hover:bg-quiet">
            <Rename
              name={named.name}
              label="Area name"
              disabled={readOnly}
              className="min-w-0 grow truncate"
              onRename={(name) => session.run(renameArea(named.id, name))}
            />
            <button
              type="button"
              className="rounded-md px-2 py-1 font-medium hover:bg-black/5 disabled:opacity-40"
              disabled={readOnly}
              aria-label={`Mark ${named.name}`}
              onClick={() => session.marking.use(named.id)}
            >
              Mark
            </button>
            <IconButton
              label={`Export ${named.name} as PNG`}
              onClick={() => saveFile(session.marking.exportMask(named.id), `${named.name}.png`)}
            >
              <Download className="size-4" aria-hidden />
            </IconButton>
            <IconButton
              label={`Delete ${named.name}`}
              disabled={readOnly}
              onClick={() => session.run(removeArea(named.id))}
            >
              <Trash2 className="size-4" aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
    </section>
  );
}
