/** SHA-256 of bytes, lower-case hex. Shared memory is copied first, as the digest does not read it. */
export async function sha256(bytes: Uint8Array | Uint16Array): Promise<string> {
  const shared = typeof SharedArrayBuffer !== 'undefined' && bytes.buffer instanceof SharedArrayBuffer;
  const view = new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const digest = await crypto.subtle.digest('SHA-256', (shared ? view.slice() : view) as BufferSource);
  return Array.from(new Uint8Array(digest), (b) => b.toString(16).padStart(2, '0')).join('');
}
