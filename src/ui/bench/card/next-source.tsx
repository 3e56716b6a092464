'use client';
import { Map as MapIcon, Move, Pencil, Trash2, X } from 'lucide-react';
import { Button } from '../../controls/button';
import { IconButton } from '../../controls/icon-button';
import { SelectRow } from '../../controls/select-row';
import { SliderRow } from '../../controls/slider-row';
import { SwitchRow } from '../../controls/switch-row';
import { slotKeys } from '../tool-icons';
import { useBench, useSession } from '../use-session';
import { Section } from './section';
import { type RailChoice, Row, railChoice } from './steer-section';

/** Where the brush takes from: remembered sources, how they are laid on, and what they keep to. */
export function NextSource({ brush }: { brush: boolean }) {
  const session = useSession();
  const next = useBench((s) => s.next);
  const mapWanted = useBench((s) => s.mapWanted);
  const isChoosing = useBench((s) => s.markTool === 'choose');
  const choice = railChoice(next.rail);
  const angles: Record<RailChoice, number> = { none: 0, sideways: 0, 'up-down': 90, angle: 45 };
  return (
    <Section title="Source">
      {brush && <Slots />}
      <SelectRow
        label="Rail"
        value={choice}
        options={[
          { value: 'none', label: 'none' },
          { value: 'sideways', label: 'sideways' },
          { value: 'up-down', label: 'up and down' },
          { value: 'angle', label: 'at an angle' },
        ]}
        onSet={(v: RailChoice) =>
          session.setNext({ rail: v === 'none' ? null : { angleDeg: angles[v], slackPx: 8 } })
        }
      />
      {choice === 'angle' && (
        <SliderRow
          label="Angle"
          value={next.rail!.angleDeg}
          min={-89}
          max={89}
          unit="°"
          onSet={(angleDeg) => session.setNext({ rail: { angleDeg, slackPx: 8 } })}
        />
      )}
      <Row label="Plane" said={!next.plane ? 'none' : isChoosing ? 'drag its corners' : 'in use'}>
        {next.plane ? (
          <>
            {!isChoosing && (
              <IconButton label="Move its corners" onClick={() => session.set({ markTool: 'choose' })}>
                <Move className="size-4" aria-hidden />
              </IconButton>
            )}
            <IconButton label="Remove plane" onClick={() => session.setNext({ plane: null })}>
              <Trash2 className="size-4" aria-hidden />
            </IconButton>
          </>
        ) : (
          <IconButton label="Place plane" onClick={() => session.steering.placeNextPlane()}>
            <Pencil className="size-4" aria-hidden />
          </IconButton>
        )}
      </Row>
      <Button
        tone={mapWanted ? 'strong' : 'plain'}
        aria-pressed={mapWanted}
        onClick={() => session.scout.toggleMap()}
      >
        <MapIcon className="size-4" aria-hidden /> Source map
      </Button>
    </Section>
  );
}

/** The remembered sources, and how the one in use is laid on. */
function Slots() {
  const session = useSession();
  const { painting } = session;
  const sources = useBench((s) => s.sources);
  const slot = useBench((s) => s.slot);
  const { turnDeg, scale, mirror, at } = sources[slot];
  return (
    <>
      <div role="group" aria-label="Remembered sources" className="mb-1 flex items-center gap-1">
        {sources.map((source, i) => (
          <Button
            key={slotKeys[i]}
            tone={i === slot ? 'strong' : 'plain'}
            aria-pressed={i === slot}
            aria-keyshortcuts={slotKeys[i]}
            title={`Source ${i + 1} (${slotKeys[i]})`}
            onClick={() => painting.takeSlot(i)}
          >
            {i + 1}
            <span className="opacity-70">{source.at ? 'set' : '–'}</span>
          </Button>
        ))}
        {at && (
          <IconButton label="Forget this source" onClick={() => painting.clearSlot(slot)}>
            <X className="size-4" aria-hidden />
          </IconButton>
        )}
      </div>
      <SliderRow
        label="Turned"
        value={turnDeg}
        min={-180}
        max={180}
        step={0.5}
        unit="°"
        onSet={(v) => painting.setBrush({ turnDeg: v })}
      />
      <SliderRow
        label="Scale"
        value={Math.round(scale * 100)}
        min={10}
        max={400}
        unit="%"
        onSet={(v) => painting.setBrush({ scale: v / 100 })}
      />
      <SwitchRow label="Mirrored" on={mirror} onSet={(v) => painting.setBrush({ mirror: v })} />
    </>
  );
}

/** How strokes differ from each other, and what the pen does. */
export function NextBrush({ takes }: { takes: boolean }) {
  const session = useSession();
  const next = useBench((s) => s.next);
  const vary = (changes: Partial<typeof next.vary>) =>
    session.setNext({ vary: { ...next.vary, ...changes } });
  return (
    <>
      {takes && (
        <Section title="Vary from stroke to stroke">
          <SliderRow
            label="Shift by up to"
            value={next.vary.jitterPx}
            min={0}
            max={200}
            unit="px"
            curved
            onSet={(jitterPx) => vary({ jitterPx })}
          />
          <SwitchRow label="Mirror every other" on={next.vary.mirror} onSet={(mirror) => vary({ mirror })} />
          <SwitchRow label="Walk through the sources" on={next.vary.walk} onSet={(walk) => vary({ walk })} />
        </Section>
      )}
      <Section title="Pen and hand">
        <SelectRow
          label="Pressure"
          value={next.pressureTo}
          options={[
            { value: 'size', label: 'changes the size' },
            { value: 'opacity', label: 'changes the opacity' },
            { value: 'softness', label: 'changes the softness' },
          ]}
          onSet={(pressureTo) => session.setNext({ pressureTo })}
        />
        <SliderRow
          label="Steadied"
          value={Math.round(next.smoothing * 100)}
          min={0}
          max={100}
          unit="%"
          onSet={(v) => session.setNext({ smoothing: v / 100 })}
        />
      </Section>
    </>
  );
}

/** The colour that is painted with. */
export function NextColour() {
  const session = useSession();
  const colour = useBench((s) => s.next.colour);
  return (
    <Section title="Colour" aside={colour ? undefined : 'none picked'}>
      {colour && (
        <Row
          label="Picked"
          said={`${Math.round(colour.red)}, ${Math.round(colour.green)}, ${Math.round(colour.blue)}`}
        >
          <span
            className="mr-1 size-6 rounded border border-line"
            style={{ background: `rgb(${colour.red} ${colour.green} ${colour.blue})` }}
          />
        </Row>
      )}
      {colour && (
        <SliderRow
          label="Grain"
          value={colour.grain}
          min={0}
          max={40}
          step={0.1}
          unit=""
          onSet={(grain) => session.setNext({ colour: { ...colour, grain } })}
        />
      )}
      <p className="text-faint">
        Hold Alt and click to pick the mean colour and the grain of about half a brush.
      </p>
    </Section>
  );
}
