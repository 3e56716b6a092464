/** Compiles a kernel that ships as base64. Synchronous: kernels are a few kilobytes and run in workers or under Node. */
export function instantiateKernel<T>(wasmBase64: string): T & { memory: WebAssembly.Memory } {
  const text = atob(wasmBase64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  const instance = new WebAssembly.Instance(new WebAssembly.Module(bytes), {
    env: {
      abort: () => {
        throw new WebAssembly.RuntimeError('A kernel stopped itself.');
      },
    },
  });
  return instance.exports as unknown as T & { memory: WebAssembly.Memory };
}
