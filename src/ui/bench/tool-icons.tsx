import {
  BoxSelect,
  Cable,
  Crosshair,
  Droplet,
  Lasso,
  type LucideIcon,
  MousePointerClick,
  PaintbrushVertical,
  Palette,
  Signature,
  Spline,
  Sprout,
  SquareDashedMousePointer,
  Waves,
  Waypoints,
} from 'lucide-react';
import type { MethodId } from '../../core/job';
import type { MarkTool } from '../../editor';

export const markTools: readonly {
  id: MarkTool;
  title: string;
  key: string;
  says: string;
  icon: LucideIcon;
}[] = [
  {
    id: 'choose',
    title: 'Choose',
    key: '0',
    says: 'Choose a mend on the photo; drag it or its source',
    icon: MousePointerClick,
  },
  { id: 'paint', title: 'Brush', key: 'Q', says: 'Paint over what is meant', icon: PaintbrushVertical },
  {
    id: 'lasso',
    title: 'Lasso',
    key: 'W',
    says: 'Draw round what is meant; it closes by itself',
    icon: Lasso,
  },
  { id: 'box', title: 'Box', key: 'E', says: 'Drag a box or an oval from corner to corner', icon: BoxSelect },
  {
    id: 'colour',
    title: 'Pick',
    key: 'R',
    says: 'Press on a colour and pull: mark what has it',
    icon: Palette,
  },
  {
    id: 'grow',
    title: 'Grow',
    key: 'T',
    says: 'Scribble over a thing: its outline is found',
    icon: Signature,
  },
  { id: 'span', title: 'Span', key: 'Y', says: 'Click along a wire, pole or crack', icon: Waypoints },
];

export const methodIcons: Record<MethodId, LucideIcon> = {
  tap: Crosshair,
  fill: Sprout,
  clone: Spline,
  heal: Waves,
  patch: SquareDashedMousePointer,
  paint: Droplet,
  knit: Cable,
};

export const methodKeys: Record<MethodId, string> = {
  tap: '1',
  fill: '2',
  clone: '3',
  heal: '4',
  patch: '5',
  paint: '6',
  knit: '7',
};

/** Keys of the brush's remembered sources. */
export const slotKeys = ['A', 'D', 'F'] as const;
