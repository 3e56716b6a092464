'use client';
import { ArrowDown, ArrowUp, Check, Route, Slice, Wand2, X } from 'lucide-react';
import { methods } from '../../../core/methods';
import { Button } from '../../controls/button';
import { IconButton } from '../../controls/icon-button';
import { useBench, useSession } from '../use-session';
import { Section } from './section';

/** The parts of a large area, in the order in which they will be mended, each by a method of its own. */
export function IslandsSection() {
  const session = useSession();
  const { islands: plans } = session;
  const plan = useBench((s) => s.islands);
  const laying = useBench((s) => s.laying?.what);
  const ways = (
    <div className="flex flex-wrap gap-1">
      <Button title="Split across changes of the ground" onClick={() => session.begin(plans.find())}>
        <Wand2 className="size-4" aria-hidden /> By itself
      </Button>
      <Button aria-pressed={laying === 'cut'} onClick={() => plans.beginCuts('cut')}>
        <Slice className="size-4" aria-hidden /> Draw cuts
      </Button>
      <Button
        aria-pressed={laying === 'bridge'}
        title="Paint a rough clone of the ground across it"
        onClick={() => plans.beginCuts('bridge')}
      >
        <Route className="size-4" aria-hidden /> Bridge
      </Button>
    </div>
  );
  if (!plan) return <Section title="Islands">{ways}</Section>;
  return (
    <Section title="Islands" aside={`${plan.parts.length} ${plan.parts.length === 1 ? 'part' : 'parts'}`}>
      {ways}
      <ol className="my-2">
        {plan.parts.map(({ island, method }, i) => (
          <li key={`${island.x}-${island.y}-${island.size}`} className="flex h-9 items-center gap-1">
            <span className="w-5 font-semibold tabular-nums">{i + 1}</span>
            <select
              aria-label={`Method for island ${i + 1}`}
              value={method}
              onChange={(e) => plans.setMethod(i, e.target.value as typeof method)}
              className="h-7 min-w-0 grow rounded-lg bg-quiet px-2"
            >
              {plans.methods.map((id) => (
                <option key={id} value={id}>
                  {methods[id].title}
                </option>
              ))}
            </select>
            <IconButton label={`Island ${i + 1} sooner`} disabled={i === 0} onClick={() => plans.move(i, -1)}>
              <ArrowUp className="size-4" aria-hidden />
            </IconButton>
            <IconButton
              label={`Island ${i + 1} later`}
              disabled={i === plan.parts.length - 1}
              onClick={() => plans.move(i, 1)}
            >
              <ArrowDown className="size-4" aria-hidden />
            </IconButton>
          </li>
        ))}
      </ol>
      <div className="flex flex-wrap gap-1">
        <Button tone="strong" onClick={() => session.begin(plans.mend())}>
          <Check className="size-4" aria-hidden /> Mend {plan.parts.length === 1 ? 'it' : 'them in turn'}
        </Button>
        <Button onClick={() => plans.leave()}>
          <X className="size-4" aria-hidden /> Leave whole
        </Button>
      </div>
    </Section>
  );
}
