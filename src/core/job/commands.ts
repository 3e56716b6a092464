import { applyPatches, type Draft, enablePatches, type Patch, produceWithPatches } from 'immer';
import { InvariantError } from '../errors';
import { findMend } from './find';
import type { Job, Layer, Mend, NamedArea, Try, Zones } from './types';

enablePatches();

/** One change of a job, as done by one gesture. Plain data; applied backwards it restores exactly what was. */
export interface Transaction {
  /** What the gesture did, in words that follow "Undo". */
  readonly label: string;
  readonly forward: readonly Patch[];
  readonly backward: readonly Patch[];
}

/** A pure change of a job: built by the functions below, run by {@link transact}. */
export interface Command {
  readonly label: string;
  readonly change: (draft: Draft<Job>) => void;
}

/** Runs a command. Returns null when it changes nothing, so that no empty entry reaches the history. */
export function transact(job: Job, command: Command): { job: Job; transaction: Transaction } | null {
  const [next, forward, backward] = produceWithPatches(job, command.change);
  if (forward.length === 0) return null;
  return { job: next, transaction: { label: command.label, forward, backward } };
}

export const redoOn = (job: Job, t: Transaction): Job => applyPatches(job, t.forward as Patch[]);
export const undoOn = (job: Job, t: Transaction): Job => applyPatches(job, t.backward as Patch[]);

function layerOf(draft: Draft<Job>, layerId: string): Draft<Layer> {
  const layer = draft.layers.find((l) => l.id === layerId);
  if (!layer) throw new InvariantError(`There is no layer ${layerId}.`);
  return layer;
}

function placeOf(draft: Draft<Job>, mendId: string) {
  const place = findMend(draft as Job, mendId);
  if (!place) throw new InvariantError(`There is no mend ${mendId}.`);
  const layer = draft.layers[place.layerIndex];
  return { layer, index: place.mendIndex, mend: layer.mends[place.mendIndex] };
}

export const renameJob = (title: string): Command => ({
  label: 'rename job',
  change: (draft) => {
    draft.title = title;
  },
});

/** Changes where every mend of the job may take from. */
export const changeZones = (label: string, changes: Partial<Zones>): Command => ({
  label,
  change: (draft) => {
    if (JSON.stringify({ ...draft.zones, ...changes }) !== JSON.stringify(draft.zones))
      draft.zones = { ...draft.zones, ...changes } as Draft<Zones>;
  },
});

/** Lays a mend on top of a layer, or at a place in it. */
export const addMend = (layerId: string, mend: Mend, index?: number): Command => ({
  label: mend.name.toLowerCase(),
  change: (draft) => {
    const { mends } = layerOf(draft, layerId);
    mends.splice(index ?? mends.length, 0, mend as Draft<Mend>);
  },
});

/** Lays several mends on top of a layer in one step. */
export const addMends = (layerId: string, mends: readonly Mend[], label: string): Command => ({
  label,
  change: (draft) => {
    layerOf(draft, layerId).mends.push(...(mends as Draft<Mend>[]));
  },
});

export const removeMend = (mendId: string): Command => ({
  label: 'delete mend',
  change: (draft) => {
    const { layer, index } = placeOf(draft, mendId);
    layer.mends.splice(index, 1);
  },
});

export type MendChanges = Partial<Omit<Mend, 'id'>>;

export const changeMend = (mendId: string, label: string, changes: MendChanges): Command => ({
  label,
  change: (draft) => {
    const { layer, index, mend } = placeOf(draft, mendId);
    const changed = Object.entries(changes).some(
      ([key, value]) => JSON.stringify(value) !== JSON.stringify(mend[key as keyof Mend]),
    );
    if (changed) layer.mends[index] = { ...(mend as Mend), ...changes } as Draft<Mend>;
  },
});

/** Adds a candidate and chooses it. */
export const addTry = (mendId: string, added: Try, label = 'another try'): Command => ({
  label,
  change: (draft) => {
    const { mend } = placeOf(draft, mendId);
    mend.tries.push(added as Draft<Try>);
    mend.chosenTry = added.id;
  },
});

/** Adds candidates beside the chosen one. */
export const addTries = (mendId: string, added: readonly Try[]): Command => ({
  label: 'tryouts',
  change: (draft) => {
    const { mend } = placeOf(draft, mendId);
    mend.tries.push(...(added as Draft<Try>[]));
  },
});

/** Puts a mend into a layer at a place counted after it was taken out. */
export const placeMend = (mendId: string, layerId: string, index: number): Command => ({
  label: 'reorder mends',
  change: (draft) => {
    const from = placeOf(draft, mendId);
    const to = layerOf(draft, layerId);
    const at = Math.max(0, Math.min(index, to.mends.length - (from.layer.id === layerId ? 1 : 0)));
    if (from.layer.id === layerId && from.index === at) return;
    const [mend] = from.layer.mends.splice(from.index, 1);
    to.mends.splice(at, 0, mend);
  },
});

export const addLayer = (layer: Layer, index?: number): Command => ({
  label: 'add layer',
  change: (draft) => {
    draft.layers.splice(index ?? draft.layers.length, 0, layer as Draft<Layer>);
  },
});

export const changeLayer = (
  layerId: string,
  label: string,
  changes: Partial<Omit<Layer, 'id' | 'mends'>>,
): Command => ({
  label,
  change: (draft) => {
    Object.assign(layerOf(draft, layerId), changes);
  },
});

/** Deletes a layer with its mends. The last layer stays: a job has at least one. */
export const removeLayer = (layerId: string): Command => ({
  label: 'delete layer',
  change: (draft) => {
    if (draft.layers.length > 1) draft.layers = draft.layers.filter((l) => l.id !== layerId);
  },
});

export const placeLayer = (layerId: string, index: number): Command => ({
  label: 'reorder layers',
  change: (draft) => {
    const from = draft.layers.findIndex((l) => l.id === layerId);
    if (from < 0 || from === index) return;
    const [layer] = draft.layers.splice(from, 1);
    draft.layers.splice(index, 0, layer);
  },
});

/** Keeps a mark under a name. */
export const addArea = (named: NamedArea): Command => ({
  label: `keep ${named.name}`.slice(0, 200),
  change: (draft) => {
    draft.areas.push(named as Draft<NamedArea>);
  },
});

export const renameArea = (id: string, name: string): Command => ({
  label: 'rename area',
  change: (draft) => {
    const named = draft.areas.find((a) => a.id === id);
    if (named) named.name = name;
  },
});

export const removeArea = (id: string): Command => ({
  label: 'delete area',
  change: (draft) => {
    draft.areas = draft.areas.filter((a) => a.id !== id);
  },
});
