'use client';
import { SelectRow } from '../../controls/select-row';
import { SliderRow } from '../../controls/slider-row';
import { SwitchRow } from '../../controls/switch-row';
import { useBench, useSession } from '../use-session';
import { Section } from './section';

/** What the marking tool at hand can be told. */
export function MarkOptions() {
  const session = useSession();
  const tool = useBench((s) => s.markTool);
  const next = useBench((s) => s.next);
  const clicks = useBench((s) => s.spanClicks.length);
  switch (tool) {
    case 'lasso':
      return (
        <Section title="Lasso">
          <p className="text-faint">
            Drag round it, or click corner after corner and close with Enter or on the first one.
          </p>
        </Section>
      );
    case 'box':
      return (
        <Section title="Box">
          <SelectRow
            label="Shape"
            value={next.boxKind}
            options={[
              { value: 'box', label: 'box' },
              { value: 'ellipse', label: 'oval' },
            ]}
            onSet={(boxKind) => session.setNext({ boxKind })}
          />
        </Section>
      );
    case 'colour':
      return (
        <Section title="Pick by colour">
          <p className="text-faint">
            Press on a colour and pull: to the right takes more, to the left less. Shift adds another.
          </p>
          <SliderRow
            label="Tolerance"
            unit=""
            value={next.pick.tolerance}
            min={1}
            max={100}
            onSet={(tolerance) => {
              session.setNext({ pick: { ...next.pick, tolerance } });
              session.finding.pickAgain();
            }}
          />
          <SwitchRow
            label="Everywhere"
            on={next.pick.everywhere}
            onSet={(everywhere) => {
              session.setNext({ pick: { ...next.pick, everywhere } });
              session.finding.pickAgain();
            }}
          />
        </Section>
      );
    case 'grow':
      return (
        <Section title="Grow">
          <p className="text-faint">
            Scribble over the thing, or draw a ring round it. Scribble more where some is missing; hold Alt
            and scribble where it took too much. Shift begins another thing.
          </p>
        </Section>
      );
    case 'span':
      return (
        <Section
          title="Span"
          aside={clicks > 0 ? `${clicks} ${clicks === 1 ? 'click' : 'clicks'}` : undefined}
        >
          <p className="text-faint">Click along a wire, pole, crack or hair, from one end to the other.</p>
          <SliderRow
            label="Lines"
            unit=""
            value={next.span.lines}
            min={1}
            max={8}
            onSet={(lines) => {
              session.setNext({ span: { ...next.span, lines } });
              session.finding.spanAgain();
            }}
          />
          <SwitchRow
            label="May bend or sag"
            on={next.span.bends}
            onSet={(bends) => {
              session.setNext({ span: { ...next.span, bends } });
              session.finding.spanAgain();
            }}
          />
        </Section>
      );
    default:
      return null;
  }
}
