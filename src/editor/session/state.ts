import type { Area, Shape } from '../../core/area';
import type { BlendMode } from '../../core/blend';
import type { GuideLine, History, Job, Mend, MethodId, Reads, SourceShift } from '../../core/job';
import type { FillStage } from '../../core/methods/fill/compute';
import type { Rect } from '../../core/raster';
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
  /** What a large area looks like so far. */
  readonly coarse?: CoarsePicture;
}

export interface CoarsePicture {
  readonly rect: Rect;
  readonly picture: ImageBitmap;
}

export interface Notice {
  readonly id: number;
  readonly text: string;
  readonly tone: 'plain' | 'warning';
  readonly action?: { readonly label: string; readonly run: () => void };
}

/** Something being laid down on the photo about where sources come from; for one mend, or (null) for the whole job. */
export type Laying =
  | { readonly what: 'allow' | 'avoid'; readonly mendId: string | null }
  | { readonly what: 'line' | 'rail'; readonly mendId: string };

/** Several finished candidates for one mend, to choose from by eye. */
export interface Tryouts {
  readonly mendId: string;
  readonly candidates: readonly Candidate[];
}

export interface Candidate {
  readonly id: string;
  /** What it does otherwise, in a few words. */
  readonly says: string;
  /** The mend as it would be. */
  readonly mend: Mend;
  readonly share: number;
  readonly state: 'waiting' | 'computing' | 'ready' | 'failed';
  /** Why it failed. */
  readonly reason: string | null;
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
  readonly laying: Laying | null;
  /** The line being drawn. */
  readonly drawnLine: GuideLine | null;
  readonly tryouts: Tryouts | null;
  /** The mend that was filled last. */
  readonly lastFilled: string | null;
  /** The next fills are done as the last one was. */
  readonly repeating: boolean;
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
  laying: null,
  drawnLine: null,
  tryouts: null,
  lastFilled: null,
  repeating: false,
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
