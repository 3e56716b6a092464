'use client';
import { BookmarkPlus, Repeat2, Sparkles } from 'lucide-react';
import { blendModes } from '../../../core/blend';
import { methods } from '../../../core/methods';
import { fillToRepeat, markHues } from '../../../editor';
import { Button } from '../../controls/button';
import { SelectRow } from '../../controls/select-row';
import { SliderRow } from '../../controls/slider-row';
import { blendLabel } from '../mend-list/layer-head';
import { ReadLayers } from '../reads-row';
import { useBench, useSession } from '../use-session';
import { type AreaChanges, GuardRow, InvertButton, MarginRows, OutlineRows } from './area-rows';
import { IslandsSection } from './islands-section';
import { MarkOptions } from './mark-options';
import { NextBrush, NextColour, NextSource } from './next-source';
import { OutlookSection } from './outlook-section';
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
  const look = useBench((s) => s.markLook);
  const hue = useBench((s) => s.markHue);
  const area = mark ?? next;
  const setArea = ({ marginPx = area.marginPx, featherPx = area.featherPx }: AreaChanges) => {
    session.setNext({ marginPx, featherPx });
    session.marking.adjust({ marginPx, featherPx });
  };
  return (
    <div>
      <div className="flex h-10 items-center border-b border-line px-3">
        <h2 className="font-semibold">{mark ? 'What is marked' : 'Next mend'}</h2>
      </div>
      <MarkOptions />
      <Section title="Area">
        <MarginRows area={area} onShow={(_, c) => setArea(c)} onSet={(_, c) => setArea(c)} />
        {mark && (
          <>
            <OutlineRows
              area={mark}
              onShow={(_, c) => session.marking.adjust(c)}
              onSet={(_, c) => session.marking.adjust(c)}
            />
            <GuardRow area={mark} mendId={null} onSet={(_, c) => session.marking.adjust(c)} />
            <div className="mt-1 flex flex-wrap gap-1">
              <InvertButton />
              <Button
                title="Keep it with the job, to be marked again (P)"
                onClick={() => session.begin(session.marking.keep())}
              >
                <BookmarkPlus className="size-4" aria-hidden /> Keep
              </Button>
            </div>
          </>
        )}
        <p className="mt-1 text-faint">
          {mark
            ? 'Shift marks more, Alt takes away. Then pick how to mend it.'
            : 'Mark a thing with room to spare, its shadow too, or pick a method first and mend as you mark.'}
        </p>
      </Section>
      {mark && <OutlookSection />}
      {mark && <IslandsSection />}
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
      <Section title="Small faults">
        <Button title="Dust, hairs, hot pixels and blemishes" onClick={() => session.sweeping.open()}>
          <Sparkles className="size-4" aria-hidden /> {mark ? 'Sweep within the mark' : 'Sweep the photo'}
        </Button>
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
          onSet={(value) => session.looks.choose({ surround: value })}
        />
        <SelectRow
          label="Marks as"
          value={look}
          options={[
            { value: 'tint', label: 'outline and tint' },
            { value: 'outline', label: 'outline only' },
            { value: 'hatch', label: 'outline and hatch' },
          ]}
          onSet={(markLook) => session.looks.choose({ markLook })}
        />
        <SelectRow
          label="Marks in"
          value={hue}
          options={markHues.map((value) => ({ value, label: value }))}
          onSet={(markHue) => session.looks.choose({ markHue })}
        />
      </Section>
    </div>
  );
}
