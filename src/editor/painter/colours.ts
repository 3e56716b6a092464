import type { MarkHue, Surround } from '../session/state';

/** The hues that carry meaning on the photo; the style sheet has the same ones. */
export const colours = {
  mended: '#0f8f7d',
  mendedTint: 'rgba(15, 143, 125, 0.22)',
  source: '#c26a00',
  allow: '#3d5fc4',
  avoid: '#a3352b',
  steer: '#f2f0a8',
  steerInk: '#2b2a12',
  halo: 'rgba(255, 255, 255, 0.9)',
  thread: '#ffffff',
  threadEdge: 'rgba(0, 0, 0, 0.55)',
} as const;

export const surrounds: Record<Surround, string> = { light: '#d9d9d9', mid: '#8c8c8c', dark: '#333333' };

/** What a mark may be shown in: told apart from the photo whatever its colours are. */
export const markColours: Record<MarkHue, string> = {
  green: '#0f8f7d',
  violet: '#8a3fc4',
  yellow: '#e8c400',
};
