import { type Area, boundsOfArea } from '../../core/area';
import {
  addMend,
  addTry,
  changeMend,
  findMend,
  type Mend,
  type MethodId,
  removeMend,
  type Source,
  type SourceShift,
} from '../../core/job';
import { methods } from '../../core/methods';
import { intersect, isEmpty } from '../../core/raster';
import { sourceAt } from './brush-source';
import { fillToRepeat, firstPassOf, withSettingsOf } from './earlier-fill';
import { areaOf, newId, newMend, newTry } from './new-mend';
import { takesFrom } from './painting';
import { joinable, joinMends, mendBelow, splitMend } from './parts';
import type { Session } from './session';
import type { NextMend } from './state';

/** Makes mends of what is marked, and changes, splits, joins and deletes them. */
export class Mending {
  /** The mends asked for so far. */
  private asked: Promise<unknown> = Promise.resolve();

  constructor(private readonly session: Session) {}

  /** Mends an area, after those that were asked for before. Of what is marked, it takes what is marked now: a quick hand marks
   *  more while this is still looking for a source, and that is mended next or stays. */
  async make(method: MethodId, given: Area): Promise<void> {
    const isMark = given === this.session.state.mark;
    if (isMark) await this.session.finding.settled();
    const area = (isMark && this.session.state.mark) || given;
    const made = this.asked.then(() => this.makeNext(method, area, isMark));
    this.asked = made.catch(() => {});
    return made;
  }

  private async makeNext(method: MethodId, given: Area, isMark: boolean): Promise<void> {
    const { job, activeLayer, next, mark } = this.session.state;
    // What was mended meanwhile is no longer marked.
    const area = isMark ? mark && areaOf(given, (s) => mark.shapes.includes(s)) : given;
    if (!area || !job || !activeLayer || !this.session.mayWrite()) return;
    const bounds = { x: 0, y: 0, w: job.photo.width, h: job.photo.height };
    if (isEmpty(intersect(boundsOfArea(area), bounds))) {
      this.session.notify('What is marked lies outside the photo, or nothing is left of it.', 'warning');
      return;
    }
    let mend = this.mendFor(method, area, next);
    let leftOut: Area | null | undefined;
    if (method === 'fill') {
      const plain = this.fillLikeOthers(mend);
      mend = await this.session.advice.leavingOut(plain);
      if (mend !== plain) leftOut = plain.steer.avoid;
      // The mark was taken back meanwhile.
      if (isMark && !this.session.state.mark) return;
    }
    if (method === 'paint') mend = { ...mend, params: next.colour ?? (await this.colourBeside(area)) };
    else if (methods[method].needsSource || method === 'tap') {
      const source = this.regionSource(area) ?? (await this.findSource(mend));
      if (!source) {
        this.session.notify(
          'There is no place on this photo large enough to take this area from. Mark less of it.',
          'warning',
        );
        return;
      }
      mend = { ...mend, source };
    }
    if (!this.session.run(addMend(activeLayer, mend))) return;
    if (isMark) this.session.marking.mended(given, mend.id);
    else this.session.marking.clear();
    this.session.set({ chosen: mend.id });
    if (method === 'fill') this.session.set({ lastFilled: mend.id });
    if (methods[method].scope === 'kept') {
      const computed = this.session.fills.compute(mend.id);
      if (method === 'fill')
        void computed.then((filled) => filled && this.session.advice.tellOfFill(mend.id, filled, leftOut));
    } else if (method === 'heal' || method === 'patch') void this.session.steering.offerStops(mend);
  }

  /** A mend of what is marked, not yet with a source. */
  mendFor(method: MethodId, area: Area, next: NextMend): Mend {
    const { job, fillKeepsTo } = this.session.state;
    const mend = newMend(job!, method, area, null, next);
    const { plane, rail } = next;
    if (methods[method].needsSource) return { ...mend, steer: { ...mend.steer, plane, rail } };
    if (method !== 'fill') return mend;
    const laid = { plane: fillKeepsTo.plane ? plane : null, rail: fillKeepsTo.rail ? rail : null };
    return { ...mend, steer: { ...mend.steer, ...laid } };
  }

  /** Colour and grain just left of an area. */
  private colourBeside(area: Area): Promise<Record<string, number>> {
    const box = boundsOfArea(area);
    return this.session.engine.call('pickPaint', {
      x: Math.max(8, box.x - 8),
      y: box.y + box.h / 2,
      radiusPx: 6,
    });
  }

  /** Repeated, with the last fill's settings; over what an earlier fill left, with that one's. */
  private fillLikeOthers(mend: Mend): Mend {
    const { job, lastFilled, repeating } = this.session.state;
    if (!job) return mend;
    const repeated = repeating ? fillToRepeat(job, lastFilled) : null;
    if (repeated) return { ...mend, params: repeated.params, steer: repeated.steer };
    const before = firstPassOf(job, mend, (id) => this.session.masks.get(id));
    if (!before) return mend;
    this.session.notify(`Filled as a second pass over ${before.name}, with its settings.`);
    const like = withSettingsOf(mend, before);
    const { plane, rail } = mend.steer;
    return {
      ...like,
      steer: { ...like.steer, plane: plane ?? like.steer.plane, rail: rail ?? like.steer.rail },
    };
  }

  /** The next marks are filled as the last fill was, each in one stroke; what is marked now at once. */
  repeatFill(): void {
    const { job, lastFilled, repeating, mark } = this.session.state;
    if (!job || !fillToRepeat(job, lastFilled)) {
      this.session.notify('There is no fill yet whose settings could be repeated.');
      return;
    }
    if (mark) {
      this.session.set({ repeating: true });
      this.session.begin(this.make('fill', mark).finally(() => this.session.set({ repeating: false })));
      return;
    }
    this.session.set({ repeating: !repeating });
    this.session.pickMethod(repeating ? null : 'fill');
  }

  private regionSource(area: Area): Source | null {
    const { method, next } = this.session.state;
    if (!takesFrom(method)) return null;
    const box = boundsOfArea(area);
    return sourceAt(this.session.painting.brush, { x: box.x + box.w / 2, y: box.y + box.h / 2 }, next);
  }

  async findSource(mend: Mend, skip = 0): Promise<SourceShift | null> {
    const ranked = await this.session.engine.call('findSources', { mend });
    return ranked.length > 0 ? ranked[skip % ranked.length] : null;
  }

  /** Another candidate for a fill, the next best source for everything else. */
  async anotherTry(mendId: string): Promise<void> {
    const mend = this.session.mendOf(mendId);
    if (!mend) return;
    if (methods[mend.method].scope === 'kept') {
      if (this.session.run(addTry(mendId, newTry(mend)))) void this.session.fills.compute(mendId);
      return;
    }
    if (!methods[mend.method].needsSource && mend.method !== 'tap') {
      this.session.notify(
        `${methods[mend.method].title} takes from no place that is set, so there is no other one.`,
      );
      return;
    }
    const ranked = await this.session.engine.call('findSources', { mend });
    // Asked for again meanwhile, it goes on from there.
    const { source: before } = this.session.mendOf(mendId) ?? mend;
    const at = ranked.findIndex((s) => s.dx === before?.dx && s.dy === before?.dy);
    const source = ranked[(at + 1) % Math.max(1, ranked.length)];
    if (source) this.session.run(changeMend(mendId, 'another source', { source: { ...before, ...source } }));
    else this.session.notify('No other place on this photo would serve as a source here.', 'warning');
  }

  /** Computes a fill again as it was, from what now lies round it. The earlier try stays; one that could not be computed
   *  is tried again. */
  refreshFill(mendId: string): void {
    if (this.session.state.mendStates[mendId]?.state === 'missing') {
      void this.session.fills.compute(mendId);
      return;
    }
    const mend = this.session.mendOf(mendId);
    const seed = mend?.tries.find((t) => t.id === mend.chosenTry)?.seed ?? 1;
    if (!this.session.run(addTry(mendId, { id: newId(), seed }, 'refresh fill'))) return;
    this.session.set({ lastFilled: mendId });
    void this.session.fills.compute(mendId);
  }

  /** Changes a mend; a fill whose input changed by that is computed again as a further try. */
  change(mendId: string, label: string, changes: Partial<Omit<Mend, 'id'>>): void {
    const mend = this.session.base ? findMend(this.session.base, mendId)?.mend : this.session.mendOf(mendId);
    if (!mend) return;
    const method = changes.method ?? mend.method;
    const anew = 'area' in changes || 'params' in changes || 'reads' in changes || 'method' in changes;
    if (methods[method].scope === 'kept' && anew) {
      const added = newTry(mend);
      const done = this.session.run(
        changeMend(mendId, label, { ...changes, tries: [...mend.tries, added], chosenTry: added.id }),
      );
      if (done) void this.session.fills.compute(mendId);
      return;
    }
    this.session.run(changeMend(mendId, label, changes));
  }

  async switchMethod(mendId: string, method: MethodId): Promise<void> {
    const mend = this.session.mendOf(mendId);
    if (!mend || mend.method === method) return;
    let params: Mend['params'] = Object.fromEntries(
      methods[method].parameters.map((p) => [p.key, mend.params[p.key] ?? p.initial]),
    );
    if (method === 'paint' && mend.params.red === undefined)
      params = this.session.state.next.colour ?? (await this.colourBeside(mend.area));
    let { source } = mend;
    if ((methods[method].needsSource || method === 'tap') && !source)
      source = await this.findSource({ ...mend, method, params });
    const name = mend.name.replace(methods[mend.method].title, methods[method].title);
    const label = `${methods[mend.method].title.toLowerCase()} to ${methods[method].title.toLowerCase()}`;
    this.change(mendId, label, { method, params, source, name });
  }

  duplicate(mendId: string): void {
    const place = this.session.state.job && findMend(this.session.state.job, mendId);
    if (!place) return;
    const copy: Mend = { ...place.mend, id: newId(), name: `${place.mend.name}, copy`.slice(0, 200) };
    const command = { ...addMend(place.layer.id, copy, place.mendIndex + 1), label: 'duplicate mend' };
    if (this.session.run(command)) this.session.set({ chosen: copy.id });
  }

  remove(mendId: string): void {
    this.session.fills.cancel(mendId);
    if (this.session.state.reshaping === mendId) this.session.marking.clear();
    if (this.session.run(removeMend(mendId)) && this.session.state.chosen === mendId)
      this.session.set({ chosen: null });
    if (this.session.state.job) this.session.leaveLaying(this.session.state.job);
  }

  split(mendId: string): void {
    const mend = this.session.mendOf(mendId);
    const split = mend && splitMend(mend);
    if (!split) {
      this.session.notify('This mend is one short piece: there is nothing to split.');
      return;
    }
    if (!this.session.run(split.command)) return;
    this.session.set({ chosen: split.ids[0] });
    for (const id of split.ids) this.computeKept(id);
  }

  /** Makes one mend of those that are picked; of only one, together with the mend below it. */
  join(mendId: string): void {
    const { job, picked } = this.session.state;
    if (!job) return;
    const below = mendBelow(job, mendId);
    const ids = picked.length > 0 ? [mendId, ...picked] : below ? [mendId, below.id] : [mendId];
    const mends = joinable(job, ids);
    if (!mends) {
      this.session.notify(
        'Mends can be joined if they lie in one layer, have the same method, mode, margin and feather, and nothing was taken away from more than one.',
      );
      return;
    }
    const upper = mends[mends.length - 1].id;
    if (!this.session.run(joinMends(mends))) return;
    this.session.set({ chosen: upper, picked: [] });
    this.computeKept(upper);
  }

  /** Picks a mend beside the chosen one, or no longer. */
  pick(mendId: string): void {
    const { chosen, picked } = this.session.state;
    if (!chosen || chosen === mendId) {
      this.session.set({ chosen: mendId });
      return;
    }
    this.session.set({
      picked: picked.includes(mendId) ? picked.filter((id) => id !== mendId) : [...picked, mendId],
    });
  }

  private computeKept(mendId: string): void {
    const mend = this.session.mendOf(mendId);
    if (mend && methods[mend.method].scope === 'kept') void this.session.fills.compute(mendId);
  }
}
