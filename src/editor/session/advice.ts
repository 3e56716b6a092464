import type { Area, MaskShape } from '../../core/area';
import type { Mend } from '../../core/job';
import type { Belonging, Found, Outlook, Suggestion } from '../../core/marking';
import { intersect, isEmpty } from '../../core/raster';
import type { Filled } from './fills';
import { addShape } from './new-mend';
import type { Session } from './session';
import type { FillKeepsTo } from './state';

/** Looks at what is marked as soon as it rests: what probably goes with it, what it is like and what is likely to work. */
export class Advice {
  private timer: ReturnType<typeof setTimeout> | null = null;
  private asked: Area | null = null;
  /** Offers that stand beside one that was taken: they do not go because the mark has grown. */
  private kept: { readonly mark: Area; readonly offers: readonly Belonging[] } | null = null;

  constructor(private readonly session: Session) {}

  /** Called whenever the mark changed. */
  refresh(): void {
    const { mark, offers, outlook } = this.session.state;
    if (mark === this.asked) return;
    this.asked = mark;
    if (this.timer) clearTimeout(this.timer);
    const kept = this.keptFor(mark);
    if (offers.length > 0 || outlook || kept.length > 0)
      this.session.set({ offers: kept, outlook: null, offerHovered: null });
    if (mark) this.timer = setTimeout(() => void this.ask(mark).catch(() => {}), 350);
  }

  private async ask(mark: Area): Promise<void> {
    const { session } = this;
    if (!session.isOpen || session.finding.isPreview) return;
    const mend = session.mending.mendFor('fill', mark, session.state.next);
    const outlook = await session.engine.call('outlook', { mend });
    if (session.state.mark !== mark) return;
    session.set({ outlook });
    const found = await session.engine.call('belongings', { area: mark });
    if (session.state.mark !== mark) return;
    const kept = this.keptFor(mark);
    const isNew = (offer: Belonging) => !kept.some((k) => !isEmpty(intersect(k, offer)));
    session.set({ offers: [...kept, ...found.filter(isNew)] });
  }

  private keptFor(mark: Area | null): readonly Belonging[] {
    return mark && this.kept?.mark === mark ? this.kept.offers : [];
  }

  /** Marks what was offered too. */
  take(offer: Belonging): void {
    const { session } = this;
    const { mark, next, offers } = session.state;
    if (!mark) return;
    const { mask, x, y, w, h } = offer;
    const shape: MaskShape = { kind: 'mask', op: 'add', x, y, w, h, maskId: session.holdMask(mask) };
    const grown = addShape(mark, shape, next);
    this.kept = { mark: grown, offers: offers.filter((o) => o !== offer) };
    session.set({ mark: grown });
  }

  /** Adds what touches the mark to the job's avoid zone. */
  avoidBeside(): void {
    const { session } = this;
    const { outlook } = session.state;
    if (!outlook?.beside || !session.mayWrite()) return;
    session.steering.setZone(
      'avoid',
      null,
      this.withFound(session.steering.zoneOf('avoid', null), outlook.beside),
    );
    const suggestions = outlook.suggestions.filter(({ what }) => what !== 'beside');
    session.set({ outlook: { ...outlook, beside: null, suggestions }, offerHovered: null });
    session.notify('It is in the job’s avoid zone now: no fill draws from it or goes on with it.');
  }

  /** A fill that leaves out what stands next to it; the same one when nothing does. */
  async leavingOut(mend: Mend): Promise<Mend> {
    const { session } = this;
    const { mark, outlook: known } = session.state;
    // What was said of the mark does not know of a zone that an earlier fill lends.
    const isKnown = mark === mend.area && mend.steer.avoid === null && known !== null;
    const outlook = isKnown ? known : await this.outlookOf(mend);
    const beside = outlook?.beside;
    if (!beside?.standsNext) return mend;
    return { ...mend, steer: { ...mend.steer, avoid: this.withFound(mend.steer.avoid, beside) } };
  }

  /** After a fill: says what it decided by itself and offers the opposite, or says what touches it and offers to leave that out.
   *  @param leftOut  the avoid zone as it was before; undefined: nothing was left out */
  async tellOfFill(mendId: string, { seenPlane }: Filled, leftOut?: Area | null): Promise<void> {
    const { session } = this;
    const mend = session.mendOf(mendId);
    const tryId = mend?.chosenTry;
    if (!tryId) return;
    const isDecided = leftOut !== undefined || seenPlane !== null;
    const beside = !isDecided && (await this.outlookOf(mend))?.beside;
    if (!session.mendOf(mendId) || session.state.chosen !== mendId) return;
    const offer = (text: string, label: string, steer: () => void) => {
      const run = () => {
        if (!session.mayWrite() || !session.mendOf(mendId)) return;
        steer();
        session.mending.refreshFill(mendId);
      };
      session.notify(text, 'plain', { label, run }, tryId);
    };
    const avoid = (zoneOf: () => Area | null) => () => session.steering.setZone('avoid', mendId, zoneOf());
    if (leftOut !== undefined)
      offer(
        'What stands next to it was left out: the fill does not go on with it.',
        'Go on with it',
        avoid(() => leftOut),
      );
    else if (seenPlane)
      offer(
        'The ground runs away here: it is filled on the plane that it is seen to lie on.',
        'Place that plane',
        () => session.steering.setPlane(mendId, seenPlane),
      );
    else if (beside)
      offer(
        'Something else touches this area. If it was drawn in, avoid it.',
        'Avoid it and fill again',
        avoid(() => this.withFound(session.steering.zoneOf('avoid', mendId), beside)),
      );
  }

  private outlookOf(mend: Mend): Promise<Outlook | null> {
    return this.session.engine.call('outlook', { mend }).catch(() => null);
  }

  private withFound(zone: Area | null, { mask, x, y, w, h }: Found): Area {
    const shape: MaskShape = { kind: 'mask', op: 'add', x, y, w, h, maskId: this.session.holdMask(mask) };
    return { marginPx: 0, featherPx: 0, ...zone, shapes: [...(zone?.shapes ?? []), shape] };
  }

  /** Does what was suggested. */
  follow({ what }: Suggestion): void {
    const { session } = this;
    if (what === 'no') return;
    if (what === 'islands') session.begin(session.islands.find());
    else if (what === 'avoid') session.steering.begin({ what: 'avoid', mendId: null });
    else if (what === 'beside') this.avoidBeside();
    else if (what === 'rail') {
      const falls = session.state.outlook?.fallsDown ?? true;
      session.setNext({ rail: { angleDeg: falls ? 0 : 90, slackPx: 12 } });
      this.keepFillTo('rail');
      session.notify(
        `What is marked is mended from the same ${falls ? 'height' : 'side'}; so are the next clones, heals and patches.`,
      );
    } else if (what === 'plane') {
      const seen = session.state.next.plane ? null : (session.state.outlook?.plane ?? null);
      if (!session.state.next.plane) session.steering.placeNextPlane(seen);
      this.keepFillTo('plane');
      session.notify(
        `What is marked lies on this plane, and so do the next clones, heals and patches${seen ? ': it was laid along the photo’s lines.' : '. Drag its corners onto the photo’s lines.'}`,
      );
    } else session.marking.mendNow(what);
  }

  private keepFillTo(what: keyof FillKeepsTo): void {
    const { session } = this;
    if (session.state.mark) session.set({ fillKeepsTo: { ...session.state.fillKeepsTo, [what]: true } });
  }
}
