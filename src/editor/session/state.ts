import type { Area, PressureTarget, Shape, StrokeShape } from '../../core/area';
import type { BlendMode } from '../../core/blend';
import type { PlanePoint } from '../../core/geometry';
import {
  allMends,
  type GuideLine,
  type History,
  type Job,
  type Mend,
  type MethodId,
  type Rail,
  type Reads,
} from '../../core/job';
import type {
  Belonging,
  Fault,
  Island,
  Outlook,
  Scribbles,
  SpanOptions,
  SpanPoint,
  SweepOptions,
} from '../../core/marking';
import type { MatchFigures } from '../../core/match';
import type { FillStage } from '../../core/methods/fill/compute';
import type { Rect } from '../../core/raster';
import type { MendState } from '../../runtime/engine/protocol';
import { type BrushSource, emptySource } from './brush-source';

export type MarkTool = 'choose' | 'paint' | 'lasso' | 'box' | 'colour' | 'grow' | 'span';
/** How what is marked is shown. */
export const markLooks = ['tint', 'outline', 'hatch'] as const;
export type MarkLook = (typeof markLooks)[number];
export const markHues = ['green', 'violet', 'yellow'] as const;
export type MarkHue = (typeof markHues)[number];
export type Compare = 'none' | 'wipe' | 'pair';
export const surroundings = ['light', 'mid', 'dark'] as const;
export type Surround = (typeof surroundings)[number];

/** What the next mend starts with. */
export interface NextMend {
  readonly sizePx: number;
  /** 0…1 */
  readonly hardness: number;
  readonly marginPx: number;
  readonly featherPx: number;
  /** What the box tool drags out. */
  readonly boxKind: 'box' | 'ellipse';
  readonly pick: { readonly tolerance: number; readonly everywhere: boolean };
  readonly span: SpanOptions;
  readonly opacity: number;
  readonly blend: BlendMode;
  readonly reads: Reads;
  readonly readLayers: readonly string[];
  /** The source keeps its distance from stroke to stroke; otherwise each stroke starts afresh at the point set. */
  readonly keepsDistance: boolean;
  /** In whose perspective the source moves. */
  readonly plane: readonly PlanePoint[] | null;
  /** The direction that the source keeps to. */
  readonly rail: Rail | null;
  readonly vary: Vary;
  readonly pressureTo: PressureTarget;
  /** 0…1: how much the path lags behind the hand and evens it out. */
  readonly smoothing: number;
  /** What is drawn round before it is dragged: the thing that goes, or the good part that covers it. */
  readonly patchFrom: 'thing' | 'good';
  /** What is painted with, once it is picked. */
  readonly colour: Readonly<Record<string, number>> | null;
}

/** How strokes differ from each other, so that the eye finds no repeat. */
export interface Vary {
  /** The source of each stroke lies up to so far from where it would. */
  readonly jitterPx: number;
  /** Every other stroke takes its source mirrored. */
  readonly mirror: boolean;
  /** Each stroke takes the next of the remembered sources. */
  readonly walk: boolean;
}

/** The map of the chosen area's sources as a picture to be laid over the photo. */
export interface ShownMap {
  readonly picture: ImageBitmap;
  /** Document pixels along a side of a cell. */
  readonly scale: number;
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
  /** The try that it tells of: once no mend shows that, there is nothing to be told. */
  readonly tryId?: string;
}

/** Which of what the next mends keep to a fill keeps to as well; others find their sources wherever they lie. */
export interface FillKeepsTo {
  readonly plane: boolean;
  readonly rail: boolean;
}

const nothingLaidDown: FillKeepsTo = { plane: false, rail: false };

/** Something being laid down on the photo about where sources come from; for one mend, or (null) for the whole job. */
export type Laying =
  | { readonly what: 'allow' | 'avoid' | 'guard'; readonly mendId: string | null }
  | { readonly what: 'line' | 'rail' | 'stop' | 'rub'; readonly mendId: string }
  /** Lines that part what is marked; and those along which a rough clone is laid. */
  | { readonly what: 'cut' | 'bridge'; readonly mendId: null };

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

/** The parts into which what is marked is about to be split, in the order in which they will be mended. */
export interface IslandPlan {
  readonly cuts: readonly StrokeShape[];
  readonly parts: readonly { readonly island: Island; readonly method: MethodId }[];
}

/** A search for faults, what it found, and which of them are not to be mended. */
export interface SweepPlan {
  readonly options: SweepOptions;
  /** Where is looked; null: on the whole photo. */
  readonly within: Area | null;
  /** Of all that were found, the surest first, as many are listed: 0…100. */
  readonly sensitivity: number;
  readonly all: readonly Fault[];
  /** Those that are listed: the first of all. */
  readonly faults: readonly Fault[];
  /** Numbers of faults. */
  readonly refused: ReadonlySet<number>;
  readonly pointed: number | null;
  /** Seen with its small differences made large. */
  readonly exaggerated: boolean;
  /** How far the search, or the mending, has come; null when neither is under way. */
  readonly share: number | null;
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
  /** The remembered sources of the brush, and which of them it takes from. */
  readonly sources: readonly BrushSource[];
  readonly slot: number;
  /** How well the source under the brush, or the one being dragged, goes with its target. */
  readonly match: MatchFigures | null;
  readonly sourceMap: ShownMap | null;
  readonly mapWanted: boolean;
  /** The twin loupe stands where the pointer is not. */
  readonly loupeRight: boolean;
  /** A source is being dragged: target and source, in document pixels. */
  readonly dragging: { readonly target: PlanePoint; readonly source: PlanePoint } | null;
  /** Marked, not yet mended. */
  readonly mark: Area | null;
  /** What the thing that is marked was grown from. */
  readonly scribbles: Scribbles;
  /** The clicks along the line that is being marked. */
  readonly spanClicks: readonly SpanPoint[];
  /** What probably goes with what is marked. */
  readonly offers: readonly Belonging[];
  /** Which of them is pointed at, or what the outlook found beside the mark. */
  readonly offerHovered: number | 'beside' | null;
  /** What the area that is marked is like. */
  readonly outlook: Outlook | null;
  readonly islands: IslandPlan | null;
  readonly sweep: SweepPlan | null;
  readonly markLook: MarkLook;
  readonly markHue: MarkHue;
  /** The mend whose area is what is marked, to be changed. */
  readonly reshaping: string | null;
  /** What was marked when something else began to be drawn: a zone, another area. It comes back when that is done. */
  readonly markAside: Area | null;
  /** What was laid down for what is marked, and so for a fill of it too. */
  readonly fillKeepsTo: FillKeepsTo;
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
  /** Mends picked beside the chosen one, to be joined with it. */
  readonly picked: readonly string[];
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
    boxKind: 'box',
    pick: { tolerance: 18, everywhere: false },
    span: { lines: 1, bends: true },
    opacity: 1,
    blend: 'normal',
    reads: 'below',
    readLayers: [],
    keepsDistance: true,
    plane: null,
    rail: null,
    vary: { jitterPx: 0, mirror: false, walk: false },
    pressureTo: 'size',
    smoothing: 0,
    patchFrom: 'thing',
    colour: null,
  },
  sources: [emptySource, emptySource, emptySource],
  slot: 0,
  match: null,
  sourceMap: null,
  mapWanted: false,
  loupeRight: false,
  dragging: null,
  mark: null,
  scribbles: { inside: [], outside: [] },
  spanClicks: [],
  offers: [],
  offerHovered: null,
  outlook: null,
  islands: null,
  sweep: null,
  markLook: 'tint',
  markHue: 'green',
  reshaping: null,
  markAside: null,
  fillKeepsTo: nothingLaidDown,
  laying: null,
  drawnLine: null,
  tryouts: null,
  lastFilled: null,
  repeating: false,
  drawing: null,
  chosen: null,
  picked: [],
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

/** Changes, without what was said of a try that no mend shows any more. */
export function withNoticeInPlace(
  before: SessionState,
  changes: Partial<SessionState>,
): Partial<SessionState> {
  const { notice, job } = { ...before, ...changes };
  if (!notice?.tryId || !job || allMends(job).some((mend) => mend.chosenTry === notice.tryId)) return changes;
  return { ...changes, notice: null };
}

/** Said when what is marked is set aside, until it is back. */
export const comesBack = 'What is marked comes back when this is done.';

/** Changes, with what was set aside marked again once nothing else is being drawn; what was laid down for a mark goes with it. */
export function withMarkSettled(before: SessionState, changes: Partial<SessionState>): Partial<SessionState> {
  const { markAside, mark, laying, reshaping, notice } = { ...before, ...changes };
  if (mark) return changes;
  if (!markAside) return { ...changes, fillKeepsTo: nothingLaidDown };
  if (laying || reshaping) return changes;
  return {
    ...changes,
    mark: markAside,
    markAside: null,
    notice: notice?.text === comesBack ? null : notice,
  };
}
