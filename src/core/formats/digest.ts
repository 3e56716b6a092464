/** Samples that are hashed at once, so that a photo's digest needs no second copy of it. */
const stripSamples = 1 << 22;

/** Digest of a photo's pixels, lower-case hex: SHA-256 over the SHA-256 digests (as hex text) of strips of 2²² samples. */
export async function pixelsDigest(samples: Uint8Array | Uint16Array): Promise<string> {
  const digests: string[] = [];
  for (let i = 0; i < samples.length; i += stripSamples)
    digests.push(await sha256(samples.subarray(i, i + stripSamples)));
  return sha256(new TextEncoder().encode(digests.join('')));
}

/** SHA-256 of bytes, lower-case hex. Shared memory is copied first, as the digest does not read it. */
export async function sha256(bytes: Uint8Array | Uint16Array): Promise<string> {
  const shared = typeof SharedArrayBuffer !== 'undefined' && bytes.buffer instanceof SharedArrayBuffer;
  const view = new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const digest = await crypto.subtle.digest('SHA-256', (shared ? view.slice() : view) as BufferSource);
  return Array.from(new Uint8Array(digest), (b) => b.toString(16).padStart(2, '0')).join('');
}
