'use client';
import { Slider } from 'radix-ui';
import { useEffect, useId, useRef, useState } from 'react';

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  unit: string;
  disabled?: boolean;
  /** Values are spread so that small ones are easier to hit. */
  curved?: boolean;
  /** While it is dragged. */
  onShow?: (value: number) => void;
  /** When it is let go, or a number was typed. */
  onSet: (value: number) => void;
}

const power = 2.2;
/** Arrow keys that follow each other within this set one number. */
const restMs = 400;

/** A number with its slider: drag, arrow keys or typing; shown while it moves, set when it is let go. */
export function SliderRow({
  label,
  value,
  min,
  max,
  step = 1,
  unit,
  disabled,
  curved,
  onShow,
  onSet,
}: Props) {
  const id = useId();
  const [moving, setMoving] = useState<number | null>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const byKey = useRef(false);
  const settle = useRest();
  const shown = moving ?? value;
  const toTrack = (v: number) =>
    curved ? ((v - min) / (max - min)) ** (1 / power) : (v - min) / (max - min);
  const fromTrack = (t: number) => {
    const v = min + (curved ? t ** power : t) * (max - min);
    return Math.min(max, Math.max(min, Number((Math.round(v / step) * step).toFixed(4))));
  };
  const take = (v: number) => {
    setMoving(null);
    onSet(v);
  };
  // What cannot be shown before it is set is set with every key.
  const takeByKey = (v: number) => (onShow ? settle.later(() => take(v)) : take(v));
  const steps = curved ? 200 : Math.round((max - min) / step);
  return (
    <div className="grid grid-cols-[4.9rem_1fr_4.1rem] items-center gap-2 py-0.5">
      <label htmlFor={id} className="truncate text-faint">
        {label}
      </label>
      <Slider.Root
        className="relative flex h-6 touch-none items-center select-none"
        min={0}
        max={1}
        step={1 / steps}
        value={[toTrack(shown)]}
        disabled={disabled}
        onKeyDownCapture={() => {
          byKey.current = true;
        }}
        onPointerDownCapture={() => {
          byKey.current = false;
        }}
        onValueChange={([t]) => {
          const v = fromTrack(t);
          setMoving(v);
          onShow?.(v);
        }}
        onValueCommit={([t]) => (byKey.current ? takeByKey : take)(fromTrack(t))}
        onBlur={settle.now}
      >
        <Slider.Track className="relative h-[3px] grow rounded-full bg-[#cfcfcf]">
          <Slider.Range className="absolute h-full rounded-full bg-ink" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          aria-valuetext={`${shown} ${unit}`}
          className="block size-3.5 rounded-full border border-[#777] bg-white shadow-sm"
        />
      </Slider.Root>
      <span className="flex items-baseline justify-end gap-1">
        <input
          id={id}
          inputMode="decimal"
          disabled={disabled}
          className={`${unit ? 'w-10' : 'w-14'} rounded bg-transparent px-0.5 text-right hover:bg-quiet focus:bg-white`}
          value={typed ?? String(shown)}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === 'Enter') e.currentTarget.blur();
            if (e.key === 'Escape') setTyped(null);
          }}
          onBlur={() => {
            const v = typed === null ? Number.NaN : Number(typed.replace(',', '.'));
            setTyped(null);
            if (Number.isFinite(v)) take(Math.min(max, Math.max(min, v)));
          }}
        />
        {unit && <span className="w-4 text-faint">{unit}</span>}
      </span>
    </div>
  );
}

/** Something to be done when keys have rested, or at once when the focus leaves them. */
function useRest() {
  const waiting = useRef<{ timer: ReturnType<typeof setTimeout>; work: () => void } | null>(null);
  const drop = () => {
    const { current } = waiting;
    if (current) clearTimeout(current.timer);
    waiting.current = null;
    return current;
  };
  const now = () => drop()?.work();
  const atEnd = useRef(now);
  useEffect(() => atEnd.current, []);
  const later = (work: () => void) => {
    drop();
    waiting.current = { timer: setTimeout(now, restMs), work };
  };
  return { now, later };
}
