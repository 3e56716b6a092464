/** Says which tab may write a job: one at a time, until it lets go of the lock or is closed. */
export class JobLock {
  private release: (() => void) | null = null;
  private isGivenUp = false;

  /** @returns false when another tab has it, or it was let go of meanwhile */
  take(jobId: string): Promise<boolean> {
    return new Promise((resolve) => {
      void navigator.locks.request(`vine-needle:${jobId}`, { ifAvailable: true }, (lock) => {
        const isMine = lock !== null && !this.isGivenUp;
        resolve(isMine);
        if (!isMine) return undefined;
        return new Promise<void>((done) => {
          this.release = done;
        });
      });
    });
  }

  /** For good: also a lock that is only on its way is not kept. */
  letGo(): void {
    this.isGivenUp = true;
    this.release?.();
  }
}
