/** Says which tab may write a job: one at a time, until it lets go of the lock or is closed. */
export class JobLock {
  private release: (() => void) | null = null;

  /** @returns false when another tab has it */
  take(jobId: string): Promise<boolean> {
    return new Promise((resolve) => {
      void navigator.locks.request(`vine-needle:${jobId}`, { ifAvailable: true }, (lock) => {
        resolve(lock !== null);
        if (!lock) return undefined;
        return new Promise<void>((done) => {
          this.release = done;
        });
      });
    });
  }

  letGo(): void {
    this.release?.();
  }
}
