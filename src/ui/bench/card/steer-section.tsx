'use client';
import { Minus, MoveUpRight, Pencil, RefreshCw, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import type { Mend, Rail } from '../../../core/job';
import { Button } from '../../controls/button';
import { IconButton } from '../../controls/icon-button';
import { SelectRow } from '../../controls/select-row';
import { SliderRow } from '../../controls/slider-row';
import { useBench, useSession } from '../use-session';
import { Section } from './section';
import { ZoneRow } from './zone-row';

/** Where a fill may take from: zones, rail, plane and guide lines, each drawn on the photo. */
export function SteerSection({ mend }: { mend: Mend }) {
  const session = useSession();
  const { steering } = session;
  const isWanting = useBench(
    (s) =>
      ['stale', 'missing'].includes(s.mendStates[mend.id]?.state ?? '') && s.tasks[mend.id] === undefined,
  );
  const { lines } = mend.steer;
  return (
    <Section title="Where from">
      <ZoneRow what="allow" mendId={mend.id} />
      <ZoneRow what="avoid" mendId={mend.id} />
      <RailRows mend={mend} />
      <PlaneRow mend={mend} />
      <Row label="Guide lines" said={lines.length === 0 ? 'none' : `${lines.length}`}>
        <IconButton label="Draw guide line" onClick={() => steering.begin({ what: 'line', mendId: mend.id })}>
          <MoveUpRight className="size-4" aria-hidden />
        </IconButton>
        {lines.length > 0 && (
          <IconButton label="Remove guide lines" onClick={() => steering.removeLines(mend.id)}>
            <Minus className="size-4" aria-hidden />
          </IconButton>
        )}
      </Row>
      <PendingRow mend={mend} />
      {isWanting && (
        <Button tone="strong" className="mt-1.5 w-full" onClick={() => session.mending.refreshFill(mend.id)}>
          <RefreshCw className="size-4" aria-hidden /> Fill again
        </Button>
      )}
    </Section>
  );
}

/** The direction that a mend's sources keep to. */
export function RailRows({ mend }: { mend: Mend }) {
  const { steering } = useSession();
  const { rail, plane } = mend.steer;
  const choice = railChoice(rail);
  const pickRail = (picked: RailChoice) => {
    if (picked === 'angle') steering.begin({ what: 'rail', mendId: mend.id });
    else steering.setRail(mend.id, picked === 'none' ? null : picked === 'sideways' ? 0 : 90);
  };
  return (
    <>
      <SelectRow
        label="Rail"
        value={choice}
        options={[
          { value: 'none', label: 'none' },
          { value: 'sideways', label: plane ? 'along the plane' : 'sideways' },
          { value: 'up-down', label: plane ? 'up and down the plane' : 'up and down' },
          { value: 'angle', label: choice === 'angle' ? `at ${rail!.angleDeg}°` : 'drawn …' },
        ]}
        onSet={pickRail}
      />
      {rail && (
        <SliderRow
          label="Rail width"
          value={rail.slackPx}
          min={0}
          max={200}
          unit="px"
          curved
          onSet={(v) => steering.setSlack(mend.id, v)}
        />
      )}
    </>
  );
}

export function PlaneRow({ mend }: { mend: Mend }) {
  const { steering } = useSession();
  const { plane } = mend.steer;
  return (
    <Row label="Plane" said={plane ? 'drag its corners' : 'none'}>
      {plane ? (
        <IconButton label="Remove plane" onClick={() => steering.removePlane(mend.id)}>
          <Trash2 className="size-4" aria-hidden />
        </IconButton>
      ) : (
        <IconButton label="Place plane" onClick={() => steering.placePlane(mend.id)}>
          <Pencil className="size-4" aria-hidden />
        </IconButton>
      )}
    </Row>
  );
}

/** What beside a mend was still to go when it was made. */
export function PendingRow({ mend }: { mend: Mend }) {
  const { steering } = useSession();
  if (!mend.pending) return null;
  return (
    <Row label="Later parts" said="left out">
      <IconButton label="Count later parts as ground" onClick={() => steering.endPending(mend.id)}>
        <Trash2 className="size-4" aria-hidden />
      </IconButton>
    </Row>
  );
}

export type RailChoice = 'none' | 'sideways' | 'up-down' | 'angle';

export function railChoice(rail: Rail | null): RailChoice {
  if (!rail) return 'none';
  if (rail.angleDeg === 0) return 'sideways';
  return Math.abs(rail.angleDeg) === 90 ? 'up-down' : 'angle';
}

export function Row({ label, said, children }: { label: string; said: string; children: ReactNode }) {
  return (
    <div className="grid min-h-9 grid-cols-[4.9rem_1fr_auto] items-center gap-2">
      <span className="text-faint">{label}</span>
      <span className="truncate">{said}</span>
      <span className="flex">{children}</span>
    </div>
  );
}
