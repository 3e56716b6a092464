/** Values by content key, the least recently used let go when their bytes exceed the budget. */
export class LruCache<V> {
  private readonly entries = new Map<string, { value: V; bytes: number }>();
  private total = 0;

  constructor(private budgetBytes: number) {}

  /** Sets what may be kept; takes effect with the next value. */
  allow(budgetBytes: number): void {
    this.budgetBytes = budgetBytes;
  }

  get(key: string): V | undefined {
    const entry = this.entries.get(key);
    if (!entry) return undefined;
    this.entries.delete(key);
    this.entries.set(key, entry);
    return entry.value;
  }

  has(key: string): boolean {
    return this.entries.has(key);
  }

  set(key: string, value: V, bytes: number): void {
    const old = this.entries.get(key);
    if (old) {
      this.total -= old.bytes;
      this.entries.delete(key);
    }
    this.entries.set(key, { value, bytes });
    this.total += bytes;
    for (const [oldest, entry] of this.entries) {
      if (this.total <= this.budgetBytes || oldest === key) break;
      this.entries.delete(oldest);
      this.total -= entry.bytes;
    }
  }

  get bytes(): number {
    return this.total;
  }

  clear(): void {
    this.entries.clear();
    this.total = 0;
  }
}
