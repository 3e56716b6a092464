import type { Session } from './session';
import { markHues, markLooks, type SessionState, surroundings } from './state';

/** What the user chooses about how the bench looks. */
type Look = Pick<SessionState, 'markLook' | 'markHue' | 'surround'>;

const choices: { readonly [K in keyof Look]: readonly Look[K][] } = {
  markLook: markLooks,
  markHue: markHues,
  surround: surroundings,
};

/** How the bench looks: remembered in this browser, for all jobs. */
export class Looks {
  constructor(private readonly session: Session) {}

  async recall(): Promise<void> {
    // What cannot be read is no reason not to open a job.
    const kept = await this.session.jobs.preferences().catch(() => new Map<string, string>());
    const known = Object.entries(choices).flatMap(([key, values]) => {
      const value = (values as readonly string[]).find((v) => v === kept.get(key));
      return value ? [[key, value]] : [];
    });
    this.session.set(Object.fromEntries(known));
  }

  choose(look: Partial<Look>): void {
    this.session.set(look);
    // On a full disk it holds until the tab is closed; that is no loss to tell of.
    void this.session.jobs.prefer(look).catch(() => {});
  }
}
