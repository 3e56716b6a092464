// The picture that labels' pixels lie in. AssemblyScript.

// What a pixel may be taken from, as core/methods/fill/frame.ts has it.
export let fw: i32 = 0, fh: i32 = 0;
export let picture: usize = 0;
let known: usize = 0, source: usize = 0;
const FAR_ACROSS: f64 = 20000;
let ruleIndex: usize = 0, homeX: usize = 0, homeY: usize = 0, across: usize = 0, ruleTable: usize = 0;
let viewPixels: i32 = 0;
let viewsApart: f32 = 0;
/** What it costs to join two views of a place: as much as a join that anybody sees. */
export const SEEN_TWICE: i32 = 400;

/** The frame that the labels' pixels lie in.
 *  @param img         8 bytes a pixel
 *  @param isKnown     u8 a pixel
 *  @param isSource    u8 a pixel
 *  @param rules       u8 a pixel, 0 = free, else the rule's number; or 0 when there are none
 *  @param x, y        f32 a pixel, or 0: where its content lies
 *  @param stride      rows from one view of the content to the next, when there are several
 *  @param apart       two views of places nearer than this are not joined
 *  @param lines       f32 a pixel, or 0: where it lies across the lines of ruled ground
 *  @param table       f64 normal x, normal y, slack and period of each rule; the period is below 0 where it is not of ruled ground */
export function setFrame(img: usize, w: i32, h: i32, isKnown: usize, isSource: usize, rules: usize, x: usize, y: usize, stride: i32, apart: f32, lines: usize, table: usize): void {
  picture = img; fw = w; fh = h; known = isKnown; source = isSource;
  ruleIndex = rules; homeX = x; homeY = y; across = lines; ruleTable = table;
  viewPixels = stride * w; viewsApart = apart;
}

/** Whether two pixels are in different views, of the same place or nearly: side by side they mirror each other, or fan out. */
// @ts-ignore: decorator
@inline export function isSeenTwice(a: i32, b: i32): bool {
  return homeX != 0 && isPlaceSeenTwice(a, b);
}

function isPlaceSeenTwice(a: i32, b: i32): bool {
  if (a / viewPixels == b / viewPixels) return false;
  const dx = abs<f32>(load<f32>(homeX + (<usize>a << 2)) - load<f32>(homeX + (<usize>b << 2)));
  const dy = abs<f32>(load<f32>(homeY + (<usize>a << 2)) - load<f32>(homeY + (<usize>b << 2)));
  return dx + dy < viewsApart;
}

/** Whether a pixel p in column px may take its source at a shift. */
export function mayTake(p: i32, px: i32, dx: i32, dy: i32): bool {
  const x = px + dx, q = p + dy * fw + dx;
  if (x < 0 || x >= fw || q < 0 || q >= fw * fh || load<u8>(source + <usize>q) != 1) return false;
  const rule = ruleIndex ? <i32>load<u8>(ruleIndex + <usize>p) : 0;
  if (rule == 0) return true;
  const t = ruleTable + <usize>(rule - 1) * 32;
  const period = load<f64>(t, 24);
  if (period >= 0) {
    let d = <f64>load<f32>(across + (<usize>q << 2)) - <f64>load<f32>(across + (<usize>p << 2));
    if (abs<f64>(d) >= FAR_ACROSS) return false;
    if (period > 0) d -= period * nearest<f64>(d / period);
    return abs<f64>(d) <= load<f64>(t, 16) + 1e-3;
  }
  let stepX = <f64>dx, stepY = <f64>dy;
  if (homeX) {
    stepX = <f64>load<f32>(homeX + (<usize>q << 2)) - <f64>load<f32>(homeX + (<usize>p << 2));
    stepY = <f64>load<f32>(homeY + (<usize>q << 2)) - <f64>load<f32>(homeY + (<usize>p << 2));
  }
  return abs<f64>(load<f64>(t) * stepX + load<f64>(t, 8) * stepY) <= load<f64>(t, 16) + 1e-3;
}

// @ts-ignore: decorator
@inline export function isInside(x: i32, y: i32): bool { return x >= 0 && y >= 0 && x < fw && y < fh; }

// @ts-ignore: decorator
@inline export function isKnownPixel(p: i32): bool { return load<u8>(known + <usize>p) != 0; }

// @ts-ignore: decorator
@inline export function isKnownAt(x: i32, y: i32): bool { return isInside(x, y) && isKnownPixel(y * fw + x); }

// @ts-ignore: decorator
@inline export function at(x: i32, y: i32): usize { return picture + (<usize>(y * fw + x) << 3); }
