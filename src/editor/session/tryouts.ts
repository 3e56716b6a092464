import { messageOf } from '../../core/errors';
import { addTries, changeMend, type Mend, type MethodId, type Try } from '../../core/job';
import { methods } from '../../core/methods';
import { newId, newTry } from './new-mend';
import type { Session } from './session';
import type { Candidate, Tryouts as TryoutsState } from './state';

/** How a further fill differs from the ones before it. */
const variations: readonly ((mend: Mend) => Record<string, number> | undefined)[] = [
  () => undefined,
  () => ({ apart: 1 }),
  (mend) => ({ reach: Math.min(20, 2 * (mend.params.reach ?? 1)) }),
  () => ({ mirror: 1 }),
];

/** So many fills are there to choose from at least. */
const fewest = 5;

/** Computes several candidates for a mend side by side. Fills become tries of the mend, so that none is lost; the other
 *  methods are shown beside them and cost nothing until one is picked. */
export class Tryouts {
  private abort = new AbortController();

  constructor(private readonly session: Session) {}

  /** Shows the tries there are, filled up to {@link fewest}, and what the other methods would give. */
  async open(mendId: string): Promise<void> {
    const { session } = this;
    const mend = session.mendOf(mendId);
    if (!mend) return;
    this.abort.abort();
    this.abort = new AbortController();
    const { signal } = this.abort;
    const added = mend.method === 'fill' ? furtherTries(mend, fewest - mend.tries.length) : [];
    if (added.length > 0 && !session.run(addTries(mendId, added))) return;
    const now = session.mendOf(mendId)!;
    const stale = await session.engine.call('staleTries', { mend: now });
    if (signal.aborted) return;
    const own =
      now.method === 'fill'
        ? now.tries.map((t, i) => fillCandidate(now, t, i, stale.includes(t.id)))
        : [asIs(now)];
    session.set({ tryouts: { mendId, candidates: own } });
    const others = (['heal', 'clone'] as const).filter((m) => m !== now.method);
    const found = await Promise.all(others.map((method) => this.otherMethod(now, method)));
    if (signal.aborted) return;
    this.add(found.filter((c) => c !== null));
    await Promise.all(own.map((candidate) => this.compute(candidate, signal)));
  }

  /** Further fills beside the ones that are shown, with the mend's settings of now. */
  async more(): Promise<void> {
    const { session } = this;
    const mend = session.state.tryouts && session.mendOf(session.state.tryouts.mendId);
    if (mend?.method !== 'fill') return;
    const added = furtherTries(mend, variations.length);
    if (!session.run(addTries(mend.id, added))) return;
    const now = session.mendOf(mend.id)!;
    const candidates = added.map((t, i) => fillCandidate(now, t, mend.tries.length + i, false));
    this.add(candidates);
    await Promise.all(candidates.map((candidate) => this.compute(candidate, this.abort.signal)));
  }

  close(): void {
    this.abort.abort();
    this.session.set({ tryouts: null });
  }

  /** Makes the mend what the candidate is. All others stay as its tries. */
  pick(candidate: Candidate): void {
    const { session } = this;
    const now = session.mendOf(candidate.mend.id);
    this.close();
    if (!now) return;
    const { method, source, params, chosenTry, name } = candidate.mend;
    const changes =
      method === 'fill'
        ? { method, chosenTry, name }
        : { method, source, params, name, chosenTry: now.chosenTry };
    session.run(changeMend(now.id, 'pick a tryout', changes));
  }

  private async compute(candidate: Candidate, signal: AbortSignal): Promise<void> {
    const { mend } = candidate;
    if (candidate.state === 'ready') return;
    try {
      const done = await this.session.fills.computeTry(mend, mend.chosenTry!, signal, (share) =>
        this.update(candidate.id, { state: 'computing', share }),
      );
      if (done) this.update(candidate.id, { state: 'ready', share: 1 });
    } catch (error) {
      this.update(candidate.id, { state: 'failed', reason: messageOf(error) });
    }
  }

  private async otherMethod(mend: Mend, method: MethodId): Promise<Candidate | null> {
    const params = Object.fromEntries(methods[method].parameters.map((p) => [p.key, p.initial]));
    const name = mend.name.replace(methods[mend.method].title, methods[method].title);
    const other: Mend = { ...mend, method, params, name };
    const source = mend.source ?? (await this.session.mending.findSource(other));
    if (!source) return null;
    const says =
      method === 'heal' ? 'heal: texture from elsewhere, tone from here' : 'clone: from the best place';
    return { id: newId(), says, mend: { ...other, source }, share: 1, state: 'ready', reason: null };
  }

  private add(candidates: readonly Candidate[]): void {
    const { tryouts } = this.session.state;
    if (tryouts)
      this.session.set({ tryouts: { ...tryouts, candidates: [...tryouts.candidates, ...candidates] } });
  }

  private update(id: string, changes: Partial<Candidate>): void {
    const { tryouts } = this.session.state;
    if (!tryouts) return;
    const candidates = tryouts.candidates.map((c) => (c.id === id ? { ...c, ...changes } : c));
    this.session.set({ tryouts: { ...tryouts, candidates } satisfies TryoutsState });
  }
}

function furtherTries(mend: Mend, most: number): Try[] {
  const added: Try[] = [];
  for (const variation of variations.slice(0, Math.max(0, most))) {
    const next = newTry({ tries: [...mend.tries, ...added] });
    const params = variation(mend);
    added.push(params ? { ...next, params } : next);
  }
  return added;
}

/** @param isStale  it was made before the mend, or what lies below it, was changed */
function fillCandidate(mend: Mend, t: Try, index: number, isStale: boolean): Candidate {
  const isNow = t.id === mend.chosenTry;
  const says = t.params?.mirror
    ? 'mirrored too'
    : t.params?.apart
      ? 'leaves neighbours out'
      : t.params?.reach
        ? 'looks farther'
        : isNow
          ? 'as it is now'
          : isStale
            ? null
            : 'another start';
  const before = isStale ? 'from before a change' : null;
  return {
    id: t.id,
    says: `fill ${index + 1}: ${[says, before].filter(Boolean).join(', ')}`,
    mend: { ...mend, chosenTry: t.id },
    share: 0,
    state: 'waiting',
    reason: null,
  };
}

const asIs = (mend: Mend): Candidate => ({
  id: mend.id,
  says: `${mend.method}: as it is now`,
  mend,
  share: 1,
  state: 'ready',
  reason: null,
});
