'use client';
import { ArrowDown, ArrowUp, Eye, EyeOff, SlidersHorizontal, Trash2 } from 'lucide-react';
import { Popover } from 'radix-ui';
import { blendModes } from '../../../core/blend';
import { changeLayer, type Layer, placeLayer, removeLayer } from '../../../core/job';
import { Button } from '../../controls/button';
import { IconButton } from '../../controls/icon-button';
import { Rename } from '../../controls/rename';
import { SelectRow } from '../../controls/select-row';
import { SliderRow } from '../../controls/slider-row';
import { useBench, useSession } from '../use-session';

export const blendLabel = (mode: string): string => mode.replace('-', ' ');

interface Props {
  layer: Layer;
  index: number;
  count: number;
}

export function LayerHead({ layer, index, count }: Props) {
  const session = useSession();
  const active = useBench((s) => s.activeLayer === layer.id);
  const readOnly = useBench((s) => s.readOnly);
  const set = (label: string, changes: Parameters<typeof changeLayer>[2]) =>
    session.run(changeLayer(layer.id, label, changes));
  return (
    <div className="flex h-9 items-center gap-1 pr-1 pl-3">
      <button
        type="button"
        aria-pressed={active}
        aria-label={`New mends go to ${layer.name}`}
        title="New mends go here"
        className="grid size-6 place-items-center rounded-full"
        onClick={() => session.set({ activeLayer: layer.id })}
      >
        <span
          className={`size-3 rounded-full border-2 ${active ? 'border-mended bg-mended' : 'border-[#8a8a8a]'}`}
        />
      </button>
      <Rename
        name={layer.name}
        label="Layer name"
        disabled={readOnly}
        className={`grow font-semibold ${layer.visible ? '' : 'text-faint'}`}
        onRename={(name) => set('rename layer', { name })}
      />
      <span className="text-faint">{layer.mends.length}</span>
      <IconButton
        label={layer.visible ? `Hide ${layer.name}` : `Show ${layer.name}`}
        disabled={readOnly}
        onClick={() => set(layer.visible ? 'hide layer' : 'show layer', { visible: !layer.visible })}
      >
        {layer.visible ? <Eye className="size-4" aria-hidden /> : <EyeOff className="size-4" aria-hidden />}
      </IconButton>
      <Popover.Root>
        <Popover.Trigger
          aria-label={`Settings of ${layer.name}`}
          className="grid size-8 place-items-center rounded-lg hover:bg-quiet"
        >
          <SlidersHorizontal className="size-4" aria-hidden />
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            align="start"
            sideOffset={4}
            className="z-40 w-72 rounded-xl border border-line bg-sheet p-3 shadow-xl"
          >
            <SliderRow
              label="Opacity"
              value={Math.round(layer.opacity * 100)}
              min={0}
              max={100}
              unit="%"
              onShow={(v) => session.show(changeLayer(layer.id, 'layer opacity', { opacity: v / 100 }))}
              onSet={(v) => set('layer opacity', { opacity: v / 100 })}
            />
            <SelectRow
              label="Blend"
              value={layer.blend}
              options={blendModes.map((m) => ({ value: m, label: blendLabel(m) }))}
              onSet={(blend) => set('layer blend', { blend })}
            />
            <div className="mt-2 flex gap-1">
              <Button
                disabled={index === count - 1}
                onClick={() => session.run(placeLayer(layer.id, index + 1))}
              >
                <ArrowUp className="size-4" aria-hidden /> Up
              </Button>
              <Button disabled={index === 0} onClick={() => session.run(placeLayer(layer.id, index - 1))}>
                <ArrowDown className="size-4" aria-hidden /> Down
              </Button>
              <Button
                tone="warn"
                disabled={count === 1}
                onClick={() => {
                  if (session.run(removeLayer(layer.id)))
                    session.set({ activeLayer: session.state.job?.layers.at(-1)?.id ?? null });
                }}
              >
                <Trash2 className="size-4" aria-hidden /> Delete
              </Button>
            </div>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </div>
  );
}
