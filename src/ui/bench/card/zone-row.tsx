'use client';
import { Pencil, Trash2 } from 'lucide-react';
import { IconButton } from '../../controls/icon-button';
import { useBench, useSession } from '../use-session';
import { Row } from './steer-section';

/** The allow or avoid zone of a mend, or (null) of the whole job. */
export function ZoneRow({ what, mendId }: { what: 'allow' | 'avoid'; mendId: string | null }) {
  const session = useSession();
  // Read here, so that the row follows the job.
  useBench((s) => s.job);
  const zone = session.steering.zoneOf(what, mendId);
  const jobs = mendId === null ? null : session.steering.zoneOf(what, null);
  const drawing = useBench((s) => s.laying?.what === what && s.laying.mendId === mendId);
  const title = what === 'allow' ? 'Allow zone' : 'Avoid zone';
  const said = drawing ? 'being drawn' : zone ? 'drawn' : jobs ? 'the job’s' : 'none';
  return (
    <Row label={title} said={said}>
      <IconButton
        label={`Draw ${title.toLowerCase()}`}
        pressed={drawing}
        onClick={() => (drawing ? session.steering.done() : session.steering.begin({ what, mendId }))}
      >
        <Pencil className="size-4" aria-hidden />
      </IconButton>
      {zone && (
        <IconButton
          label={`Remove ${title.toLowerCase()}`}
          onClick={() => session.steering.setZone(what, mendId, null)}
        >
          <Trash2 className="size-4" aria-hidden />
        </IconButton>
      )}
    </Row>
  );
}
