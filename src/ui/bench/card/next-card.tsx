'use client';
import { Repeat2 } from 'lucide-react';
import { blendModes } from '../../../core/blend';
import { methods } from '../../../core/methods';
import { fillToRepeat } from '../../../editor';
import { Button } from '../../controls/button';
import { SelectRow } from '../../controls/select-row';
import { SliderRow } from '../../controls/slider-row';
import { blendLabel } from '../mend-list/layer-head';
import { ReadLayers } from '../reads-row';
import { useBench, useSession } from '../use-session';
import { NextBrush, NextColour, NextSource } from './next-source';
import { Section } from './section';
import { ZoneRow } from './zone-row';

export function NextCard() {
  const session = useSession();
  const next = useBench((s) => s.next);
  const mark = useBench((s) => s.mark);
  const method = useBench((s) => s.method);
  const takesFrom = method === 'clone' || method === 'heal';
  const hasFill = useBench((s) => s.job !== null && fillToRepeat(s.job, s.lastFilled) !== null);
  const repeating = useBench((s) => s.repeating);
  const surround = useBench((s) => s.surround);
  const setArea = (changes: { marginPx?: number; featherPx?: number }) => {
    session.setNext(changes);
    if (mark) session.set({ mark: { ...mark, ...changes } });
  };
  const area = mark ?? next;
  return (
    <div>
      <div className="flex h-10 items-center border-b border-line px-3">
        <h2 className="font-semibold">{mark ? 'What is marked' : 'Next mend'}</h2>
      </div>
      <Section title="Area">
        <SliderRow
          label="Margin"
          value={area.marginPx}
          min={-100}
          max={200}
          unit="px"
          onShow={(marginPx) => setArea({ marginPx })}
          onSet={(marginPx) => setArea({ marginPx })}
        />
        <SliderRow
          label="Feather"
          value={area.featherPx}
          min={0}
          max={200}
          unit="px"
          curved
          onShow={(featherPx) => setArea({ featherPx })}
          onSet={(featherPx) => setArea({ featherPx })}
        />
        <p className="mt-1 text-faint">
          {mark
            ? 'Shift marks more, Alt takes away. Then pick how to mend it.'
            : 'Mark a thing with room to spare, its shadow too, or pick a method first and mend as you mark.'}
        </p>
      </Section>
      {method && (
        <Section title={methods[method].title}>
          <p className="text-faint">
            {methods[method].says}
            {takesFrom && ' Hold Alt and click to set where it is taken from.'}
          </p>
          {method === 'patch' && (
            <SelectRow
              label="Draw round"
              value={next.patchFrom}
              options={[
                { value: 'thing', label: 'the thing that goes' },
                { value: 'good', label: 'a good part' },
              ]}
              onSet={(patchFrom) => session.setNext({ patchFrom })}
            />
          )}
        </Section>
      )}
      {method === 'paint' && <NextColour />}
      {(takesFrom || method === 'patch') && <NextSource brush={takesFrom} />}
      {(takesFrom || method === 'paint') && <NextBrush takes={takesFrom} />}
      {(method === 'fill' || mark) && (
        <Section title="Where fills take from" aside="the whole job">
          <ZoneRow what="allow" mendId={null} />
          <ZoneRow what="avoid" mendId={null} />
        </Section>
      )}
      {(method === 'fill' || mark) && hasFill && (
        <Section title="Last fill">
          <Button
            tone={repeating ? 'strong' : 'plain'}
            aria-pressed={repeating}
            onClick={() => session.mending.repeatFill()}
          >
            <Repeat2 className="size-4" aria-hidden />{' '}
            {mark ? 'Fill this as the last one' : 'Repeat its settings'}
          </Button>
        </Section>
      )}
      <Section title="Blend">
        <SliderRow
          label="Opacity"
          value={Math.round(next.opacity * 100)}
          min={1}
          max={100}
          unit="%"
          onShow={(v) => session.setNext({ opacity: v / 100 })}
          onSet={(v) => session.setNext({ opacity: v / 100 })}
        />
        <SelectRow
          label="Mode"
          value={next.blend}
          options={blendModes.map((m) => ({ value: m, label: blendLabel(m) }))}
          onSet={(blend) => session.setNext({ blend })}
        />
        {next.reads === 'chosen' && (
          <ReadLayers chosen={next.readLayers} onSet={(readLayers) => session.setNext({ readLayers })} />
        )}
      </Section>
      <Section title="View">
        <SelectRow
          label="Surround"
          value={surround}
          options={[
            { value: 'light', label: 'light' },
            { value: 'mid', label: 'mid grey' },
            { value: 'dark', label: 'dark' },
          ]}
          onSet={(value) => session.set({ surround: value })}
        />
      </Section>
    </div>
  );
}
