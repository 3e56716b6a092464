import type { Area, Shape } from '../../core/area';
import type { BlendMode } from '../../core/blend';
import type { History, Job, MethodId, Reads, SourceShift } from '../../core/job';
import type { FillStage } from '../../core/methods/fill/compute';
import type { MendState } from '../../runtime/engine/protocol';
import type { Point } from '../viewport/camera';

export type MarkTool = 'choose' | 'paint' | 'lasso' | 'box';
export type Compare = 'none' | 'wipe' | 'pair';
export type Surround = 'light' | 'mid' | 'dark';

/** What the next mend starts with. */
export interface NextMend {
  readonly sizePx: number;
  /** 0…1 */
  readonly hardness: number;
  readonly marginPx: number;
  readonly featherPx: number;
  readonly opacity: number;
  readonly blend: BlendMode;
  readonly reads: Reads;
  /** The source keeps its distance from stroke to stroke; otherwise each stroke starts afresh at the point set. */
  readonly keepsDistance: boolean;
}

/** Where clone and heal take from: the point set, and the distance once a stroke has fixed it. */
export interface PickedSource {
  readonly at: Point;
  readonly shift: SourceShift | null;
}

export interface Task {
  readonly stage: FillStage | 'waiting';
  readonly share: number;
  readonly startedAtMs: number;
}

export interface Notice {
  readonly id: number;
  readonly text: string;
  readonly tone: 'plain' | 'warning';
  readonly action?: { readonly label: string; readonly run: () => void };
}

export type Status =
  | { readonly is: 'opening' }
  | { readonly is: 'ready' }
  | { readonly is: 'failed'; readonly message: string };

export interface SessionState {
  readonly status: Status;
  readonly job: Job | null;
  readonly history: History;
  readonly readOnly: boolean;
  /** When the last change was kept; null while one is being kept. */
  readonly keptAtMs: number | null;
  readonly keepFailed: string | null;
  readonly markTool: MarkTool;
  readonly method: MethodId | null;
  readonly next: NextMend;
  readonly picked: PickedSource | null;
  /** Marked, not yet mended. */
  readonly mark: Area | null;
  /** The mend whose area is what is marked, to be changed. */
  readonly reshaping: string | null;
  /** The shape being drawn. */
  readonly drawing: Shape | null;
  readonly chosen: string | null;
  readonly hovered: string | null;
  readonly activeLayer: string | null;
  readonly mendStates: Readonly<Record<string, MendState>>;
  readonly tasks: Readonly<Record<string, Task>>;
  readonly compare: Compare;
  readonly flipped: boolean;
  readonly marksHidden: boolean;
  readonly surround: Surround;
  /** Screen pixels per photo pixel. The rest of the camera stays with the painter. */
  readonly zoom: number;
  readonly notice: Notice | null;
}

export const initialState: SessionState = {
  status: { is: 'opening' },
  job: null,
  history: { entries: [], cursor: 0 },
  readOnly: false,
  keptAtMs: null,
  keepFailed: null,
  markTool: 'choose',
  method: null,
  next: {
    sizePx: 64,
    hardness: 0.6,
    marginPx: 6,
    featherPx: 4,
    opacity: 1,
    blend: 'normal',
    reads: 'below',
    keepsDistance: true,
  },
  picked: null,
  mark: null,
  reshaping: null,
  drawing: null,
  chosen: null,
  hovered: null,
  activeLayer: null,
  mendStates: {},
  tasks: {},
  compare: 'none',
  flipped: false,
  marksHidden: false,
  surround: 'mid',
  zoom: 1,
  notice: null,
};
