'use client';
import { Check, X } from 'lucide-react';
import type { Fault } from '../../../core/marking';
import { Button } from '../../controls/button';
import { IconButton } from '../../controls/icon-button';
import { SliderRow } from '../../controls/slider-row';
import { SwitchRow } from '../../controls/switch-row';
import { useBench, useSession } from '../use-session';
import { Section } from './section';

/** So many of the list are put on the screen at once; the photo shows all. */
const mostShown = 300;

/** The odds as a share: how sure it is that this is a fault. Never all sure. */
const surenessOf = ({ likelihood }: Fault): string =>
  `${Math.min(99, Math.round(100 / (1 + Math.exp(-likelihood))))} %`;

/** Small faults that were found, to be accepted or refused, one by one or all. */
export function SweepPanel() {
  const session = useSession();
  const { sweeping } = session;
  const sweep = useBench((s) => s.sweep)!;
  const { options, sensitivity, faults, refused, share } = sweep;
  const accepted = faults.filter((_, i) => !refused.has(i)).length;
  return (
    <div>
      <div className="flex h-10 items-center border-b border-line pr-1 pl-3">
        <h2 className="grow font-semibold">Sweep</h2>
        <IconButton label="End sweep" hint="Escape" onClick={() => sweeping.close()}>
          <X className="size-4" aria-hidden />
        </IconButton>
      </div>
      <Section title="Look for" aside={sweep.within ? 'within the mark' : 'the whole photo'}>
        <SliderRow
          label="Sensitivity"
          value={sensitivity}
          min={0}
          max={100}
          unit=""
          onSet={(v) => sweeping.setSensitivity(v)}
        />
        <SliderRow
          label="Widest"
          value={options.mostPx}
          min={3}
          max={60}
          unit="px"
          onSet={(mostPx) => sweeping.setOptions({ mostPx })}
        />
        <SwitchRow
          label="Light faults"
          on={options.light}
          onSet={(light) => sweeping.setOptions({ light })}
        />
        <SwitchRow label="Dark faults" on={options.dark} onSet={(dark) => sweeping.setOptions({ dark })} />
        <SwitchRow
          label="Exaggerate"
          on={sweep.exaggerated}
          onSet={(exaggerated) => sweeping.exaggerate(exaggerated)}
        />
      </Section>
      <Section
        title="Found"
        aside={share === null ? `${accepted} of ${faults.length} accepted` : `${Math.round(share * 100)} %`}
      >
        {share !== null && (
          <div className="mb-2 flex items-center gap-2" role="status">
            <progress aria-label="Share done" className="h-1.5 grow" value={share} max={1} />
            <Button onClick={() => sweeping.stop()}>Cancel</Button>
          </div>
        )}
        {share === null && faults.length === 0 && (
          <p className="text-faint">Nothing stands out. Raise the sensitivity, or look for wider faults.</p>
        )}
        {faults.length > 0 && (
          <div className="flex flex-wrap gap-1">
            <Button onClick={() => sweeping.all(true)}>Accept all</Button>
            <Button onClick={() => sweeping.all(false)}>Refuse all</Button>
            <Button
              tone="strong"
              disabled={share !== null || accepted === 0}
              onClick={() => session.begin(sweeping.mend())}
            >
              <Check className="size-4" aria-hidden /> Mend {accepted}
            </Button>
          </div>
        )}
        <ul className="mt-2">
          {faults.slice(0, mostShown).map((fault, i) => (
            <li
              key={`${fault.x}-${fault.y}-${fault.size}`}
              className={`flex h-8 items-center gap-2 rounded-md px-1 hover:bg-quiet ${refused.has(i) ? 'text-faint line-through' : ''}`}
              onPointerEnter={() => sweeping.point(i)}
              onPointerLeave={() => sweeping.point(null)}
            >
              <input
                type="checkbox"
                aria-label={`Accept fault ${i + 1}`}
                className="size-4 accent-(--color-mended)"
                checked={!refused.has(i)}
                onChange={() => sweeping.toggle(i)}
              />
              <button
                type="button"
                className="min-w-0 grow truncate text-left"
                title="Go there"
                onClick={() => sweeping.goTo(fault)}
                onFocus={() => sweeping.point(i)}
              >
                {fault.isDark ? 'Dark' : 'Light'} {fault.kind}, {Math.round(Math.hypot(fault.w, fault.h))} px
              </button>
              <span
                className="text-[12px] text-faint tabular-nums"
                title="How sure it is that this is a fault"
              >
                {surenessOf(fault)}
              </span>
            </li>
          ))}
        </ul>
        {faults.length > mostShown && (
          <p className="mt-1 text-faint">And {faults.length - mostShown} more, weaker ones, on the photo.</p>
        )}
      </Section>
    </div>
  );
}
