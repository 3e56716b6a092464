'use client';
import { Brush, Check, LayoutGrid, Merge, PenLine, RefreshCw, Split, Undo2, X } from 'lucide-react';
import { blendModes } from '../../../core/blend';
import { changeMend, type Mend, methodIds } from '../../../core/job';
import { methods, parameterOf } from '../../../core/methods';
import { Button } from '../../controls/button';
import { IconButton } from '../../controls/icon-button';
import { Rename } from '../../controls/rename';
import { SelectRow } from '../../controls/select-row';
import { SliderRow } from '../../controls/slider-row';
import { SwitchRow } from '../../controls/switch-row';
import { blendLabel } from '../mend-list/layer-head';
import { ReadLayers, ReadsRow } from '../reads-row';
import { useBench, useSession } from '../use-session';
import { type AreaChanges, GuardRow, MarginRows, OutlineRows } from './area-rows';
import { Checks } from './checks';
import { Section } from './section';
import { SourceSection } from './source-section';
import { Row, SteerSection } from './steer-section';

export function MendCard({ mend }: { mend: Mend }) {
  const session = useSession();
  const readOnly = useBench((s) => s.readOnly);
  const picked = useBench((s) => s.picked.length);
  const rect = session.pictures.mendRect(mend);
  const definition = methods[mend.method];
  const show = (label: string, changes: Partial<Omit<Mend, 'id'>>) =>
    session.show(changeMend(mend.id, label, changes));
  const set = (label: string, changes: Partial<Omit<Mend, 'id'>>) =>
    session.mending.change(mend.id, label, changes);
  const showArea = (label: string, changes: AreaChanges) =>
    show(label, { area: { ...mend.area, ...changes } });
  const setArea = (label: string, changes: AreaChanges) => set(label, { area: { ...mend.area, ...changes } });
  const [shape] = mend.area.shapes;
  const stroke = mend.area.shapes.length === 1 && shape.kind === 'stroke' ? shape : null;
  return (
    <div>
      <div className="flex h-10 items-center gap-1 border-b border-line pr-1 pl-3">
        <h2 className="min-w-0 grow font-semibold">
          <Rename
            name={mend.name}
            label="Mend name"
            disabled={readOnly}
            className="max-w-full"
            onRename={(name) => set('rename mend', { name })}
          />
        </h2>
        <IconButton label="Choose none" hint="Escape" onClick={() => session.set({ chosen: null })}>
          <X className="size-4" aria-hidden />
        </IconButton>
      </div>
      <fieldset disabled={readOnly}>
        <Section title="Area" aside={`${rect.w} × ${rect.h} px`}>
          {stroke && (
            <>
              <SliderRow
                label="Size"
                value={Math.round(stroke.radiusPx * 2)}
                min={1}
                max={2000}
                unit="px"
                curved
                onShow={(v) =>
                  show('size', { area: { ...mend.area, shapes: [{ ...stroke, radiusPx: v / 2 }] } })
                }
                onSet={(v) =>
                  set('size', { area: { ...mend.area, shapes: [{ ...stroke, radiusPx: v / 2 }] } })
                }
              />
              <SliderRow
                label="Softness"
                value={Math.round((1 - stroke.hardness) * 100)}
                min={0}
                max={100}
                unit="%"
                onShow={(v) =>
                  show('softness', { area: { ...mend.area, shapes: [{ ...stroke, hardness: 1 - v / 100 }] } })
                }
                onSet={(v) =>
                  set('softness', { area: { ...mend.area, shapes: [{ ...stroke, hardness: 1 - v / 100 }] } })
                }
              />
            </>
          )}
          <MarginRows area={mend.area} onShow={showArea} onSet={setArea} />
          <OutlineRows area={mend.area} onShow={showArea} onSet={setArea} />
          <GuardRow area={mend.area} mendId={mend.id} onSet={setArea} />
          <Reshape mend={mend} />
          <div className="mt-1 flex flex-wrap gap-1">
            <Button title="Make several mends of it" onClick={() => session.mending.split(mend.id)}>
              <Split className="size-4" aria-hidden /> Split
            </Button>
            <Button
              title={
                picked > 0
                  ? 'Make one mend of all that are picked'
                  : 'Make one mend of it and the one below; pick more with Shift in the list'
              }
              onClick={() => session.mending.join(mend.id)}
            >
              <Merge className="size-4" aria-hidden />{' '}
              {picked > 0 ? `Join all ${picked + 1}` : 'Join with below'}
            </Button>
          </div>
        </Section>
        <Section title="Method" aside={mend.tries.length > 1 ? `${mend.tries.length} tries` : undefined}>
          <div role="group" aria-label="Method" className="flex flex-wrap gap-1">
            {methodIds.map((id) => (
              <Button
                key={id}
                tone={id === mend.method ? 'strong' : 'plain'}
                aria-pressed={id === mend.method}
                onClick={() => session.begin(session.mending.switchMethod(mend.id, id))}
              >
                {methods[id].title}
              </Button>
            ))}
          </div>
          {definition.parameters.map((p) =>
            p.isSwitch ? (
              <SwitchRow
                key={p.key}
                label={p.label}
                on={parameterOf(mend, p) > 0}
                onSet={(on) =>
                  set(p.label.toLowerCase(), { params: { ...mend.params, [p.key]: on ? p.max : p.min } })
                }
              />
            ) : (
              <SliderRow
                key={p.key}
                label={p.label}
                value={parameterOf(mend, p)}
                min={p.min}
                max={p.max}
                step={p.step}
                unit={p.unit}
                onShow={
                  definition.scope === 'kept'
                    ? undefined
                    : (v) => show(p.label.toLowerCase(), { params: { ...mend.params, [p.key]: v } })
                }
                onSet={(v) => set(p.label.toLowerCase(), { params: { ...mend.params, [p.key]: v } })}
              />
            ),
          )}
          {definition.scope === 'kept' && <Tries mend={mend} />}
        </Section>
        {definition.scope === 'kept' && <SteerSection mend={mend} />}
        {(definition.needsSource || mend.method === 'tap') && <SourceSection mend={mend} />}
        <Section title="Blend">
          <SliderRow
            label="Opacity"
            value={Math.round(mend.opacity * 100)}
            min={0}
            max={100}
            unit="%"
            onShow={(v) => show('opacity', { opacity: v / 100 })}
            onSet={(v) => set('opacity', { opacity: v / 100 })}
          />
          <SelectRow
            label="Mode"
            value={mend.blend}
            options={blendModes.map((m) => ({ value: m, label: blendLabel(m) }))}
            onSet={(blend) => set('blend mode', { blend })}
          />
          <ReadsRow reads={mend.reads} onSet={(reads) => set('what it reads', { reads })} />
          {mend.reads === 'chosen' && (
            <ReadLayers
              chosen={mend.readLayers}
              onSet={(readLayers) => set('layers that it reads', { readLayers })}
            />
          )}
          <RubRow mend={mend} />
        </Section>
        <Checks mend={mend} />
      </fieldset>
    </div>
  );
}

/** Where what lies below shows through the mend again. */
function RubRow({ mend }: { mend: Mend }) {
  const { steering } = useSession();
  return (
    <Row label="Rubbed" said={mend.rubbed ? 'in part' : 'nothing'}>
      <IconButton label="Rub away" onClick={() => steering.begin({ what: 'rub', mendId: mend.id })}>
        <Brush className="size-4" aria-hidden />
      </IconButton>
      {mend.rubbed && (
        <IconButton label="Bring all back" onClick={() => steering.bringAllBack(mend.id)}>
          <Undo2 className="size-4" aria-hidden />
        </IconButton>
      )}
    </Row>
  );
}

/** Lets the area itself be changed with the marking tools. */
function Reshape({ mend }: { mend: Mend }) {
  const session = useSession();
  const reshaping = useBench((s) => s.reshaping === mend.id);
  if (!reshaping)
    return (
      <Button className="mt-1" onClick={() => session.marking.reshape(mend.id)}>
        <PenLine className="size-4" aria-hidden /> Change area
      </Button>
    );
  return (
    <div className="mt-1">
      <p className="text-faint">Mark to add, hold Alt to take away.</p>
      <div className="mt-1 flex gap-1">
        <Button tone="strong" onClick={() => session.marking.keepShape()}>
          <Check className="size-4" aria-hidden /> Keep area
        </Button>
        <Button onClick={() => session.marking.clear()}>Leave as it was</Button>
      </div>
    </div>
  );
}

/** Earlier and later candidates of a fill: any can be chosen again. */
function Tries({ mend }: { mend: Mend }) {
  const session = useSession();
  const computing = useBench((s) => s.tasks[mend.id] !== undefined);
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-1" role="group" aria-label="Tries">
      {mend.tries.map((t, i) => (
        <Button
          key={t.id}
          tone={t.id === mend.chosenTry ? 'strong' : 'plain'}
          aria-pressed={t.id === mend.chosenTry}
          disabled={computing}
          title={t.params ? 'with settings of its own' : undefined}
          onClick={() => session.run(changeMend(mend.id, `try ${i + 1}`, { chosenTry: t.id }))}
        >
          {i + 1}
        </Button>
      ))}
      <Button disabled={computing} onClick={() => session.begin(session.mending.anotherTry(mend.id))}>
        <RefreshCw className="size-4" aria-hidden /> Another try
      </Button>
      <Button disabled={computing} onClick={() => session.begin(session.tryouts.open(mend.id))}>
        <LayoutGrid className="size-4" aria-hidden /> Tryouts
      </Button>
    </div>
  );
}
