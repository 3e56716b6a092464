import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { holeOf, patterns, size } from '../demo/patterns/patterns';
import { decodePicture } from '../src/headless/node-codecs';
import { ContactSheet } from './contact-sheet';
import { blackened } from './fill-holes';
import { fillOnce } from './fill-once';
import { peerFill } from './peer';
import { outFile } from './photos';
import { headline, line, spreadOf, told as toldSpread } from './report';
import { type Score, score, told, toldMean } from './scoring/score';

const demo = join(import.meta.dirname, '..', 'demo', 'patterns');

/** Fill of holes in what repeats in bold and runs away in perspective, against the picture itself. */
export async function benchFillPatterns(): Promise<void> {
  headline('Fill of holes in bold patterns, against the picture itself, one core');
  const scores: Score[] = [];
  const times: number[] = [];
  const whole = { x: 0, y: 0, ...size };
  for (const pattern of patterns) {
    const picture = await decodePicture(new Uint8Array(readFileSync(join(demo, `${pattern.id}.jpg`))));
    const sheet = new ContactSheet();
    for (const k of pattern.holes.keys()) {
      const hole = { ...size, data: holeOf(pattern, k) };
      const ours = fillOnce(picture, [hole], 0);
      const its = score(ours.picture, picture, hole.data);
      line(`${pattern.id}, hole ${k + 1}`, `${told(its)}  ${ours.tookMs.toFixed(0)} ms`);
      scores.push(its);
      times.push(ours.tookMs);
      const peer = await peerFill('telea', picture, hole.data, whole);
      line('  telea', told(score(peer.picture, picture, hole.data)));
      sheet.add(whole, [blackened(picture, hole), picture, ours.picture]);
    }
    sheet.write(outFile(`patterns-${pattern.id}.png`));
  }
  line(`mean of ${scores.length}`, `${toldMean(scores)}  ${toldSpread(spreadOf(times))}`);
}
