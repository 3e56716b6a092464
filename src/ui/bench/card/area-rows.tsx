'use client';
import { FlipHorizontal2, ShieldMinus, Trash2 } from 'lucide-react';
import type { Area, FeatherSide } from '../../../core/area';
import { Button } from '../../controls/button';
import { IconButton } from '../../controls/icon-button';
import { SelectRow } from '../../controls/select-row';
import { SliderRow } from '../../controls/slider-row';
import { SwitchRow } from '../../controls/switch-row';
import { useBench, useSession } from '../use-session';
import { Row } from './steer-section';

export type AreaChanges = Partial<Omit<Area, 'shapes'>>;

interface Props {
  area: AreaChanges & Pick<Area, 'marginPx' | 'featherPx'>;
  onShow: (label: string, changes: AreaChanges) => void;
  onSet: (label: string, changes: AreaChanges) => void;
}

/** Room round an area and the softness of its edge. */
export function MarginRows({ area, onShow, onSet }: Props) {
  return (
    <>
      <SliderRow
        label="Margin"
        value={area.marginPx}
        min={-100}
        max={200}
        unit="px"
        onShow={(marginPx) => onShow('margin', { marginPx })}
        onSet={(marginPx) => onSet('margin', { marginPx })}
      />
      <SliderRow
        label="Feather"
        value={area.featherPx}
        min={0}
        max={200}
        unit="px"
        curved
        onShow={(featherPx) => onShow('feather', { featherPx })}
        onSet={(featherPx) => onSet('feather', { featherPx })}
      />
    </>
  );
}

/** What is done to an outline that was marked. */
export function OutlineRows({ area, onShow, onSet }: Props) {
  return (
    <>
      {area.featherPx > 0 && (
        <SelectRow<FeatherSide>
          label="Soft side"
          value={area.featherSide ?? 'outside'}
          options={[
            { value: 'outside', label: 'outside the edge' },
            { value: 'inside', label: 'inside the edge' },
            { value: 'both', label: 'half and half' },
          ]}
          onSet={(featherSide) => onSet('soft side', { featherSide })}
        />
      )}
      <SliderRow
        label="Smooth"
        value={area.smoothPx ?? 0}
        min={0}
        max={50}
        unit="px"
        onShow={(smoothPx) => onShow('smooth outline', { smoothPx })}
        onSet={(smoothPx) => onSet('smooth outline', { smoothPx })}
      />
      <SliderRow
        label="Crumbs"
        value={area.crumbPx ?? 0}
        min={0}
        max={100}
        unit="px"
        onShow={(crumbPx) => onShow('drop crumbs', { crumbPx })}
        onSet={(crumbPx) => onSet('drop crumbs', { crumbPx })}
      />
      <SwitchRow
        label="Fill holes"
        on={area.fillHoles ?? false}
        onSet={(fillHoles) => onSet('fill holes', { fillHoles })}
      />
    </>
  );
}

/** What the margin of a mend's area, or (null) of what is marked, never crosses. */
export function GuardRow({
  area,
  mendId,
  onSet,
}: {
  area: Area;
  mendId: string | null;
  onSet: Props['onSet'];
}) {
  const { steering } = useSession();
  const drawing = useBench((s) => s.laying?.what === 'guard' && s.laying.mendId === mendId);
  const drawn = (area.guard?.length ?? 0) > 0;
  return (
    <Row label="Guard" said={drawing ? 'being drawn' : drawn ? 'drawn' : 'none'}>
      <IconButton
        label="Draw guard"
        pressed={drawing}
        onClick={() => (drawing ? steering.done() : steering.begin({ what: 'guard', mendId }))}
      >
        <ShieldMinus className="size-4" aria-hidden />
      </IconButton>
      {drawn && (
        <IconButton label="Remove guard" onClick={() => onSet('remove guard', { guard: [] })}>
          <Trash2 className="size-4" aria-hidden />
        </IconButton>
      )}
    </Row>
  );
}

export function InvertButton() {
  const { marking } = useSession();
  return (
    <Button title="Mark everything else instead (Shift + P)" onClick={() => marking.invert()}>
      <FlipHorizontal2 className="size-4" aria-hidden /> Invert
    </Button>
  );
}
