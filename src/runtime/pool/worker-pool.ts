import { WorkerClient } from '../rpc';
import type { PoolProtocol } from './protocol';
import { rehearsal } from './rehearsal';

/** The answer to a request that was cancelled; cancelling is no error. */
export const cancelled = Symbol('cancelled');

interface Task<K extends keyof PoolProtocol> {
  kind: K;
  request: PoolProtocol[K]['request'];
  transfer: Transferable[];
  signal: AbortSignal;
  onProgress: (value: NonNullable<PoolProtocol[K]['progress']>) => void;
  resolve(value: PoolProtocol[K]['reply'] | typeof cancelled): void;
  reject(error: Error): void;
}

/** Workers for what takes longer, one a core but one. A task is cancelled by ending its worker, which answers at once
 *  whatever the computation is doing; the next task gets a new one. A worker that dies fails only its own task. */
export class WorkerPool {
  private readonly waiting: Task<keyof PoolProtocol & string>[] = [];
  private running = 0;

  constructor(
    private readonly makeWorker: () => Worker,
    private readonly size = Math.max(1, (navigator.hardwareConcurrency || 2) - 1),
  ) {}

  private readonly idle: WorkerClient<PoolProtocol>[] = [];
  private readonly closing = new AbortController();

  /** Gets a worker ready when there is none: what is computed first takes half as long again in a new one. */
  rehearse(): void {
    if (this.running + this.waiting.length + this.idle.length > 0 || this.closing.signal.aborted) return;
    const options = { signal: this.closing.signal, transfer: [], onProgress: () => {} };
    // Should it fail, the first fill tells what is wrong.
    this.run('fill', rehearsal(), options).catch(() => {});
  }

  run<K extends keyof PoolProtocol & string>(
    kind: K,
    request: PoolProtocol[K]['request'],
    options: Pick<Task<K>, 'signal' | 'onProgress' | 'transfer'>,
  ): Promise<PoolProtocol[K]['reply'] | typeof cancelled> {
    return new Promise((resolve, reject) => {
      this.waiting.push({ kind, request, ...options, resolve, reject });
      this.next();
    });
  }

  close(): void {
    this.closing.abort();
    for (const client of this.idle) client.close();
    this.idle.length = 0;
    for (const task of this.waiting.splice(0)) task.resolve(cancelled);
  }

  private next(): void {
    while (this.running < this.size) {
      const task = this.waiting.shift();
      if (!task) return;
      if (task.signal.aborted) task.resolve(cancelled);
      else void this.start(task);
    }
  }

  private async start(task: Task<keyof PoolProtocol & string>): Promise<void> {
    this.running++;
    const client = this.idle.pop() ?? new WorkerClient<PoolProtocol>(this.makeWorker());
    const cancel = () => client.close('cancelled');
    task.signal.addEventListener('abort', cancel);
    try {
      const { kind, request, transfer, onProgress } = task;
      task.resolve(await client.call(kind, request, { transfer, onProgress }));
      this.idle.push(client);
    } catch (error) {
      if (task.signal.aborted) task.resolve(cancelled);
      else {
        client.close();
        task.reject(error as Error);
      }
    } finally {
      task.signal.removeEventListener('abort', cancel);
      this.running--;
      this.next();
      // Its worker went with it, and whoever cancels a fill is likely to try another.
      if (task.signal.aborted) this.rehearse();
    }
  }
}
