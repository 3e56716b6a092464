import Dexie, { type EntityTable, type Table } from 'dexie';
import type { Job, Transaction } from '../../core/job';
import type { Depth } from '../../core/raster';

/** One line of the shelf, with the job as it is now. */
export interface JobRow {
  id: string;
  job: Job;
  /** Entries of the history that are done; those behind were undone. */
  cursor: number;
  createdAt: number;
  updatedAt: number;
  /** Set when it was deleted; it can still be brought back until it is cleared away. */
  deletedAt: number | null;
  before: Blob | null;
  after: Blob | null;
  originalBytes: number;
  /** Masks and tries. */
  extraBytes: number;
}

export interface OriginalRow {
  jobId: string;
  file: Blob;
  sha256: string;
}

export interface HistoryRow {
  jobId: string;
  index: number;
  transaction: Transaction;
}

export interface TryRow {
  tryId: string;
  jobId: string;
  x: number;
  y: number;
  w: number;
  h: number;
  depth: Depth;
  inputKey: string;
  pixels: Blob;
}

export interface MaskRow {
  maskId: string;
  jobId: string;
  w: number;
  h: number;
  pixels: Blob;
}

/** How the user likes the bench to look, for all jobs of this browser. */
export interface PreferenceRow {
  key: string;
  value: string;
}

/** The browser's own store. Pixels are Blobs: they are written and read several times faster than buffers. */
export class Database extends Dexie {
  jobs!: EntityTable<JobRow, 'id'>;
  originals!: EntityTable<OriginalRow, 'jobId'>;
  history!: Table<HistoryRow, [string, number]>;
  tries!: EntityTable<TryRow, 'tryId'>;
  masks!: EntityTable<MaskRow, 'maskId'>;
  preferences!: EntityTable<PreferenceRow, 'key'>;

  constructor(name = 'vine-needle') {
    super(name);
    this.version(1).stores({
      jobs: 'id, updatedAt',
      originals: 'jobId',
      history: '[jobId+index], jobId',
      tries: 'tryId, jobId',
      masks: 'maskId, jobId',
    });
    this.version(2).stores({ preferences: 'key' });
  }
}
