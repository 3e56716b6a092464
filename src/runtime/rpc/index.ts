import { InputError, messageOf } from '../../core/errors';

/** A worker's requests: for each kind what is sent, what comes back and what is told meanwhile. */
export type Protocol = Record<string, { request: unknown; reply: unknown; progress?: unknown }>;

type Envelope = { id: number; kind: string; request: unknown };
type Answer =
  | { id: number; settled: 'done'; reply: unknown }
  | { id: number; settled: 'failed'; code: string | null; message: string }
  | { id: number; settled: null; progress: unknown };

/** A reply whose buffers go over to the receiver. */
export class Handover<T> {
  constructor(
    readonly value: T,
    readonly transfer: Transferable[],
  ) {}
}

export type Handlers<P extends Protocol> = {
  [K in keyof P]: (
    request: P[K]['request'],
    progress: (value: P[K]['progress'], transfer?: Transferable[]) => void,
  ) => P[K]['reply'] | Handover<P[K]['reply']> | Promise<P[K]['reply'] | Handover<P[K]['reply']>>;
};

interface Port {
  onmessage: ((event: MessageEvent) => void) | null;
  postMessage(message: unknown, transfer: Transferable[]): void;
}

/** Answers requests inside a worker. Each settles exactly once: done or failed. */
export function serve<P extends Protocol>(port: Port, handlers: Handlers<P>): void {
  port.onmessage = async (event: MessageEvent<Envelope>) => {
    const { id, kind, request } = event.data;
    try {
      const handler = handlers[kind];
      if (!handler) throw new Error(`There is no handler for ${kind}.`);
      const result = await handler(request, (progress, transfer = []) =>
        port.postMessage({ id, settled: null, progress } satisfies Answer, transfer),
      );
      if (result instanceof Handover)
        port.postMessage({ id, settled: 'done', reply: result.value } satisfies Answer, result.transfer);
      else port.postMessage({ id, settled: 'done', reply: result } satisfies Answer, []);
    } catch (error) {
      const code = error instanceof InputError ? error.code : null;
      port.postMessage({ id, settled: 'failed', code, message: messageOf(error) } satisfies Answer, []);
    }
  };
}

/** The worker is gone; what was asked of it got no answer. */
export class WorkerGone extends Error {
  override readonly name = 'WorkerGone';
}

interface Waiting {
  resolve(value: never): void;
  reject(error: Error): void;
  onProgress?: (value: never) => void;
}

/** The other end: sends requests to a worker and waits for their answers. */
export class WorkerClient<P extends Protocol> {
  private readonly waiting = new Map<number, Waiting>();
  private nextId = 1;
  private gone: string | null = null;

  constructor(
    private readonly worker: Worker,
    private readonly onGone: (reason: string) => void = () => {},
  ) {
    worker.onmessage = (event: MessageEvent<Answer>) => this.settle(event.data);
    worker.onerror = (event) => {
      event.preventDefault();
      this.close(event.message || 'The worker stopped.');
      this.onGone(event.message || 'The worker stopped.');
    };
  }

  call<K extends keyof P & string>(
    kind: K,
    request: P[K]['request'],
    options: { transfer?: Transferable[]; onProgress?: (value: NonNullable<P[K]['progress']>) => void } = {},
  ): Promise<P[K]['reply']> {
    if (this.gone) return Promise.reject(new WorkerGone(this.gone));
    const id = this.nextId++;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve: resolve as never, reject, onProgress: options.onProgress as never });
      this.worker.postMessage({ id, kind, request } satisfies Envelope, options.transfer ?? []);
    });
  }

  /** Ends the worker at once; everything still waiting is rejected. */
  close(reason = 'The worker was closed.'): void {
    if (this.gone) return;
    this.gone = reason;
    this.worker.terminate();
    for (const w of this.waiting.values()) w.reject(new WorkerGone(reason));
    this.waiting.clear();
  }

  private settle(answer: Answer): void {
    const w = this.waiting.get(answer.id);
    if (!w) return;
    if (answer.settled === null) {
      w.onProgress?.(answer.progress as never);
      return;
    }
    this.waiting.delete(answer.id);
    if (answer.settled === 'done') w.resolve(answer.reply as never);
    else w.reject(answer.code ? new InputError(answer.code, answer.message) : new Error(answer.message));
  }
}
