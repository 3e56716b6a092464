'use client';
import { Crosshair, Eraser, Map as MapIcon, Pencil, RefreshCw, ScanSearch, Star } from 'lucide-react';
import type { Mend, Source } from '../../../core/job';
import { changeMend } from '../../../core/job';
import { Button } from '../../controls/button';
import { IconButton } from '../../controls/icon-button';
import { SliderRow } from '../../controls/slider-row';
import { SwitchRow } from '../../controls/switch-row';
import { useBench, useSession } from '../use-session';
import { Section } from './section';
import { PendingRow, PlaneRow, RailRows, Row } from './steer-section';
import { ZoneRow } from './zone-row';

/** Where a mend takes from, and what is done to it on its way. */
export function SourceSection({ mend }: { mend: Mend }) {
  const session = useSession();
  const mapWanted = useBench((s) => s.mapWanted);
  const { source } = mend;
  const changed = (changes: Partial<Source>, label: string) =>
    changeMend(mend.id, label, {
      source: { dx: source?.dx ?? 0, dy: source?.dy ?? 0, ...source, ...changes },
    });
  const set = (changes: Partial<Source>, label = 'move source') => session.run(changed(changes, label));
  const show = (changes: Partial<Source>, label = 'move source') => session.show(changed(changes, label));
  return (
    <Section
      title="Source"
      aside={source ? `${Math.round(Math.hypot(source.dx, source.dy))} px away` : 'none yet'}
    >
      <SliderRow
        label="Across"
        value={source?.dx ?? 0}
        min={-2000}
        max={2000}
        unit="px"
        onShow={(dx) => show({ dx })}
        onSet={(dx) => set({ dx })}
      />
      <SliderRow
        label="Down"
        value={source?.dy ?? 0}
        min={-2000}
        max={2000}
        unit="px"
        onShow={(dy) => show({ dy })}
        onSet={(dy) => set({ dy })}
      />
      <SliderRow
        label="Turned"
        value={source?.turnDeg ?? 0}
        min={-180}
        max={180}
        step={0.5}
        unit="°"
        onShow={(turnDeg) => show({ turnDeg }, 'turn source')}
        onSet={(turnDeg) => set({ turnDeg }, 'turn source')}
      />
      <SliderRow
        label="Scale"
        value={Math.round((source?.scale ?? 1) * 100)}
        min={10}
        max={400}
        unit="%"
        onShow={(v) => show({ scale: v / 100 }, 'scale source')}
        onSet={(v) => set({ scale: v / 100 }, 'scale source')}
      />
      <SwitchRow
        label="Mirrored"
        on={source?.mirror === true}
        onSet={(mirror) => set({ mirror }, 'mirror source')}
      />
      <div className="my-1 flex flex-wrap gap-1">
        <Button onClick={() => session.begin(session.scout.takeBest(mend.id))}>
          <Star className="size-4" aria-hidden /> Best
        </Button>
        <Button onClick={() => session.begin(session.mending.anotherTry(mend.id))}>
          <RefreshCw className="size-4" aria-hidden /> Next best
        </Button>
        <Button
          tone={mapWanted ? 'strong' : 'plain'}
          aria-pressed={mapWanted}
          onClick={() => session.scout.toggleMap()}
        >
          <MapIcon className="size-4" aria-hidden /> Map
        </Button>
        <Button onClick={() => session.set({ markTool: 'choose', method: null })}>
          <Crosshair className="size-4" aria-hidden /> Drag on photo
        </Button>
      </div>
      <RailRows mend={mend} />
      <PlaneRow mend={mend} />
      <ZoneRow what="allow" mendId={mend.id} />
      <ZoneRow what="avoid" mendId={mend.id} />
      <PendingRow mend={mend} />
      {mend.method !== 'clone' && <StopRow mend={mend} />}
    </Section>
  );
}

/** Stretches that no tone crosses. */
function StopRow({ mend }: { mend: Mend }) {
  const session = useSession();
  const { steering } = session;
  const { length } = mend.stops;
  return (
    <Row label="Stop lines" said={length === 0 ? 'none' : `${length}`}>
      <IconButton label="Find stop lines" onClick={() => session.begin(steering.findStops(mend.id))}>
        <ScanSearch className="size-4" aria-hidden />
      </IconButton>
      <IconButton label="Draw stop line" onClick={() => steering.begin({ what: 'stop', mendId: mend.id })}>
        <Pencil className="size-4" aria-hidden />
      </IconButton>
      {length > 0 && (
        <IconButton label="Remove stop lines" onClick={() => steering.removeStops(mend.id)}>
          <Eraser className="size-4" aria-hidden />
        </IconButton>
      )}
    </Row>
  );
}
