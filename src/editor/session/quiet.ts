/** So long after a stroke the next one may follow at once. */
const restMs = 700;

/** Tells when nobody paints, so that what nobody waits for does not come between the hand and the picture: the engine
 *  answers one question at a time. */
export class Quiet {
  private endedAt = Number.NEGATIVE_INFINITY;

  constructor(private readonly isPainting: () => boolean) {}

  strokeEnded(): void {
    this.endedAt = performance.now();
  }

  /** Resolves once no stroke is under way and none ended just now. */
  async comes(): Promise<void> {
    for (;;) {
      const waitMs = this.isPainting() ? restMs : this.endedAt + restMs - performance.now();
      if (waitMs <= 0) return;
      await new Promise((resume) => setTimeout(resume, waitMs));
    }
  }
}
