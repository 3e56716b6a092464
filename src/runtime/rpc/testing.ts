import { type Handlers, serve } from '.';

/** A worker in the same thread: messages are cloned and come later, as real ones do. */
export function fakeWorker(handlers: Handlers<never>): Worker {
  const worker = { onmessage: null, onerror: null, terminated: false } as unknown as Worker & {
    terminated: boolean;
  };
  const inside = {
    onmessage: null as ((event: MessageEvent) => void) | null,
    postMessage: (message: unknown) => {
      const data = structuredClone(message);
      setTimeout(() => !worker.terminated && worker.onmessage?.({ data } as MessageEvent));
    },
  };
  serve(inside, handlers);
  worker.postMessage = (message: unknown) => {
    const data = structuredClone(message);
    setTimeout(() => !worker.terminated && inside.onmessage?.({ data } as MessageEvent));
  };
  worker.terminate = () => {
    worker.terminated = true;
  };
  return worker;
}
