'use client';
import type { Suggestion } from '../../../core/marking';
import { methods } from '../../../core/methods';
import { Button } from '../../controls/button';
import { useBench, useSession } from '../use-session';
import { Section } from './section';

const buttonOf = ({ what }: Suggestion): string | null => {
  if (what === 'no') return null;
  if (what === 'islands') return 'Split into islands';
  if (what === 'avoid') return 'Draw avoid zone';
  if (what === 'beside') return 'Avoid what touches it';
  if (what === 'rail') return 'Set a rail';
  if (what === 'plane') return 'Place a plane';
  return methods[what].title;
};

const round = (v: number) => (v < 100 ? Math.round(v) : Math.round(v / 10) * 10);

/** What the marked area is like, before anything is computed, and what is likely to work. */
export function OutlookSection() {
  const session = useSession();
  const outlook = useBench((s) => s.outlook);
  if (!outlook) return null;
  const { longPx, widePx, room, textures, lines, fallOff, converging, neighbours, beside, atEdge } = outlook;
  const facts = [
    `${round(longPx)} px long, ${round(widePx)} px wide`,
    room < 10 ? `${room.toFixed(1)} times its size to draw from` : 'plenty to draw from',
    textures === 1 ? 'one ground round it' : `${textures} grounds meet there`,
    lines > 0 &&
      (lines === 1
        ? 'a line passes behind'
        : `${lines} lines pass behind${converging ? ' and run together' : ''}`),
    fallOff > 0.8 && 'focus falls off',
    beside && 'something touches it',
    neighbours > 0 && (neighbours === 1 ? 'one like it nearby' : `${neighbours} like it nearby`),
    atEdge > 0.05 && 'at the photo’s edge',
  ].filter(Boolean);
  return (
    <Section title="Outlook">
      <p className="text-faint">{facts.join(' · ')}</p>
      <ul className="mt-1.5 space-y-2">
        {outlook.suggestions.map((suggestion) => {
          const label = buttonOf(suggestion);
          return (
            <li key={suggestion.what} className={suggestion.what === 'no' ? 'text-warn' : undefined}>
              <p className="mb-1">{suggestion.why}</p>
              {label && <Button onClick={() => session.advice.follow(suggestion)}>{label}</Button>}
            </li>
          );
        })}
      </ul>
    </Section>
  );
}
