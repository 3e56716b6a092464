/** Blend functions B(backdrop, source) on encoded values 0…1.
 *  Source: W3C Compositing and Blending Level 1, sections 10.1 (separable) and 10.2 (non-separable). */
export const blendModes = [
  'normal',
  'multiply',
  'screen',
  'overlay',
  'darken',
  'lighten',
  'color-dodge',
  'color-burn',
  'hard-light',
  'soft-light',
  'difference',
  'exclusion',
  'hue',
  'saturation',
  'color',
  'luminosity',
] as const;

export type BlendMode = (typeof blendModes)[number];

type Channel = (b: number, s: number) => number;

const hardLight: Channel = (b, s) => (s <= 0.5 ? b * 2 * s : b + (2 * s - 1) - b * (2 * s - 1));

const separable: Partial<Record<BlendMode, Channel>> = {
  normal: (_b, s) => s,
  multiply: (b, s) => b * s,
  screen: (b, s) => b + s - b * s,
  overlay: (b, s) => hardLight(s, b),
  darken: Math.min,
  lighten: Math.max,
  'color-dodge': (b, s) => (b <= 0 ? 0 : s >= 1 ? 1 : Math.min(1, b / (1 - s))),
  'color-burn': (b, s) => (b >= 1 ? 1 : s <= 0 ? 0 : 1 - Math.min(1, (1 - b) / s)),
  'hard-light': hardLight,
  'soft-light': (b, s) => {
    if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
    const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
    return b + (2 * s - 1) * (d - b);
  },
  difference: (b, s) => Math.abs(b - s),
  exclusion: (b, s) => b + s - 2 * b * s,
};

type Colour = [number, number, number];

const lum = (c: Colour): number => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
const sat = (c: Colour): number => Math.max(...c) - Math.min(...c);

function clipColour(c: Colour): Colour {
  const l = lum(c);
  const n = Math.min(...c);
  const x = Math.max(...c);
  let out = c;
  if (n < 0) out = out.map((v) => l + ((v - l) * l) / (l - n)) as Colour;
  if (x > 1) out = out.map((v) => l + ((v - l) * (1 - l)) / (x - l)) as Colour;
  return out;
}

function setLum(c: Colour, l: number): Colour {
  const d = l - lum(c);
  return clipColour([c[0] + d, c[1] + d, c[2] + d]);
}

function setSat(c: Colour, s: number): Colour {
  const min = Math.min(...c);
  const span = Math.max(...c) - min;
  return span > 0 ? (c.map((v) => ((v - min) * s) / span) as Colour) : [0, 0, 0];
}

const whole: Partial<Record<BlendMode, (b: Colour, s: Colour) => Colour>> = {
  hue: (b, s) => setLum(setSat(s, sat(b)), lum(b)),
  saturation: (b, s) => setLum(setSat(b, sat(s)), lum(b)),
  color: (b, s) => setLum(s, lum(b)),
  luminosity: (b, s) => setLum(b, lum(s)),
};

/** The blend function of a mode, on three channels. */
export function blendFunction(mode: BlendMode): (b: Colour, s: Colour) => Colour {
  const one = separable[mode];
  if (one) return (b, s) => [one(b[0], s[0]), one(b[1], s[1]), one(b[2], s[2])];
  return whole[mode]!;
}
