import type { Random } from '../../../random';
import { rimShifts } from '../cut/rim-shifts';
import type { Shift } from '../cut/seam-cut';
import { onlySeen, savesEnough, tooDear, withoutRules } from '../edges/dear-edges';
import type { Frame } from '../frame';
import { meanStrangeness } from '../strange-colours';
import { PatchSearch, refineSources, shiftedSources } from './patch-search';

/** A start compares about so many pairs of patches. */
const peelEffort = 800_000;
/** A level's rounds end when targets find fewer better sources than this at a round's beginning, in the mean. */
const settled = 0.04;
/** A search starts with patches of the first of these radii, or of the second where what comes of it has no more than this share of the
 *  faults: by how much it differs from its sources, and doubly when its colours are so many 8-bit steps strange in the mean beside a
 *  rim of so many pixels. Where sources keep to lines, small patches must be clearly better: they lose what runs along beside. */
const startRadii = [4, 2];
const less = { usually: 0.95, alongLines: 0.75 };
const compared = { rimPx: 3, strange: 10 };
/** Or it starts with what so many shifts bring under which the rim looks alike, the best of them first, where that has no more than
 *  this share of the faults. */
const byRim = { shifts: 12, less: 0.9 };

/** What a search has come to at one level. */
interface Searched {
  readonly level: number;
  readonly guide: Uint8Array;
  readonly sources: Int32Array;
  /** {@link PatchSearch.unlike} */
  readonly unlike: number;
  /** {@link PatchSearch.costs} */
  readonly costs: Float32Array;
}

interface SearchOptions {
  /** Of something thin: fewer rounds do, and one start. */
  readonly isThin: boolean;
  readonly onProgress: (stage: 'searching', share: number) => void;
}

/** Searches from the coarsest level to the working one.
 *
 *  At the coarsest a large patch holds the whole neighbourhood, and where no other place looks like it (a label on a cask, with hoops
 *  above and below) the start brings in what has no business there. A small one finds what is right beside, but may lose lines. What
 *  repeats in bold, pales or stripes, both fall out of step with; there a place whose rim looks alike has all that is wanted. All three
 *  are tried, and compared a level farther on.
 *
 *  So is a start that minds no edges which are only seen. Those that cost too much are minded no more, if that saves what it promised:
 *  what is free to leave an edge out altogether is cheap as well.
 *
 *  @param working  the finest that is searched
 *  @returns the guide and where it comes from, of the working level, and the levels without the rules that were dropped */
export function searchLevels(
  levels: readonly Frame[],
  working: number,
  radiusOf: (frame: Frame) => number,
  random: Random,
  options: SearchOptions,
): Pick<Searched, 'guide' | 'sources'> & { levels: readonly Frame[] } {
  const run = new LevelSearch(working, levels.length - 1, radiusOf, random, options);
  const first = run.start(levels);
  const { found, minded } = options.isThin
    ? { found: first, minded: levels }
    : run.withoutDear(levels, first);
  let best = found;
  for (let level = best.level - 1; level >= working; level--) best = run.go(minded, level, best);
  return { guide: best.guide, sources: best.sources, levels: minded };
}

/** A search over levels, which may start several times. */
class LevelSearch {
  /** Levels searched, of those that seem to be needed; and what was told of that, which is not taken back when more are. */
  private done = 0;
  private all: number;
  private told = 0;
  /** The level on which starts are compared. */
  private readonly comparedAt: number;
  private readonly startsInOne: number;
  private ofRim: readonly Shift[] | null = null;

  constructor(
    private readonly working: number,
    private readonly last: number,
    private readonly radiusOf: (frame: Frame) => number,
    private readonly random: Random,
    private readonly options: SearchOptions,
  ) {
    this.comparedAt = Math.max(working, last - 1);
    this.startsInOne = !options.isThin && last > working ? 2 + 2 + 1 : 1;
    this.all = this.startsInOne + this.comparedAt - working;
  }

  /** The best of all starts. */
  start(levels: readonly Frame[]): Searched {
    const { last, comparedAt, radiusOf } = this;
    const largest = radiusOf(levels[last]);
    const first = this.startWith(levels, Math.min(startRadii[0], largest));
    if (this.startsInOne === 1) return first;
    const faultOf = ({ level, guide, unlike }: Searched) =>
      unlike * (1 + meanStrangeness(levels[level], guide, compared.rimPx) / compared.strange);
    const better = (one: Searched, other: Searched, share: number) =>
      faultOf(other) < share * faultOf(one) ? other : one;
    let best = first;
    if (largest > startRadii[1]) {
      const small = this.startWith(levels, startRadii[1]);
      best = better(best, small, levels[last].rules ? less.alongLines : less.usually);
    }
    this.ofRim ??= rimShifts(levels[comparedAt], byRim.shifts);
    if (this.ofRim.length === 0) return best;
    return better(best, this.go(levels, comparedAt, this.ofRim), byRim.less);
  }

  /** Leaves out edges that are only seen and cost too much. @param found  what came of a start that minds all */
  withoutDear(levels: readonly Frame[], found: Searched): { found: Searched; minded: readonly Frame[] } {
    const seen = onlySeen(levels[this.last]);
    if (seen.size === 0) return { found, minded: levels };
    this.all += 2;
    const free = this.startWith(
      without(levels, seen),
      Math.min(startRadii[0], this.radiusOf(levels[this.last])),
    );
    const { rules, promised } = tooDear(levels[found.level], seen, found.costs, free.costs);
    if (rules.size === 0) return { found, minded: levels };
    this.all += this.startsInOne;
    const fewer = without(levels, rules);
    const other = this.start(fewer);
    return savesEnough(found.costs, other.costs, promised)
      ? { found: other, minded: fewer }
      : { found, minded: levels };
  }

  private startWith(levels: readonly Frame[], radius: number): Searched {
    const start = this.go(levels, this.last, null, radius);
    return this.last > this.comparedAt ? this.go(levels, this.comparedAt, start) : start;
  }

  /** Searches one level. @param before  of the next coarser one, or shifts to begin with; null: it is the coarsest */
  go(
    levels: readonly Frame[],
    level: number,
    before: Searched | readonly Shift[] | null,
    radius = this.radiusOf(levels[level]),
  ): Searched {
    const { isThin } = this.options;
    const search = new PatchSearch(levels[level], radius, this.random);
    const window = Math.max(search.frame.w, search.frame.h);
    if (!before) search.peel(peelSources(search.holes.length, isThin, levels.length === 1));
    else {
      if ('guide' in before) refineSources(levels[before.level], before.sources, search);
      else shiftedSources(before, search);
      search.vote(true);
    }
    const rounds = roundsAt(level, this.last, this.working, isThin);
    for (let round = 0; round < rounds; round++) {
      const better = search.improve(before ? 3 : 4, before ? Math.max(8, window >> 2) : window);
      search.vote();
      if (better < settled) break;
      this.tell((round + 1) / rounds);
    }
    search.improve(2, 8);
    this.done++;
    this.tell(0);
    const [guide, sources, unlike, costs] = [
      search.picture(),
      search.sources(),
      search.unlike(),
      search.costs(),
    ];
    return { level, guide, sources, unlike, costs };
  }

  /** @param ofLevel  how much of the level is done that is being searched */
  private tell(ofLevel: number): void {
    this.told = Math.max(this.told, Math.min(1, (this.done + ofLevel) / this.all));
    this.options.onProgress('searching', this.told);
  }
}

/** Levels with some of their rules dropped. */
const without = (levels: readonly Frame[], rules: ReadonlySet<number>): readonly Frame[] =>
  levels.map((frame) => withoutRules(frame, rules));

function roundsAt(level: number, last: number, working: number, isThin: boolean): number {
  if (isThin) return level === 0 ? 1 : level === last ? 3 : 2;
  return level === 0 ? 3 : level === last ? 10 : 4 + level - working;
}

/** Among how many sources each pixel of a start is sought: fewer for very many pixels, and for a speck, which is sought at full
 *  size and needs little choice. */
function peelSources(pixels: number, isThin: boolean, isSpeck: boolean): number {
  if (isThin) return 300;
  return Math.max(
    300,
    Math.min(2500, Math.round(peelEffort / pixels), isSpeck ? 200 + 3 * pixels : Infinity),
  );
}
