const tiles = new Map<string, OffscreenCanvas>();

/** A small tile that fills with dots or lines, told apart without their hues. */
export function textureTile(colour: string, texture: 'dots' | 'hatch'): OffscreenCanvas {
  const known = tiles.get(colour + texture);
  if (known) return known;
  const side = 10;
  const tile = new OffscreenCanvas(side, side);
  const c = tile.getContext('2d')!;
  c.globalAlpha = 0.75;
  if (texture === 'dots') {
    c.fillStyle = colour;
    c.beginPath();
    c.arc(side / 2, side / 2, 1.3, 0, 2 * Math.PI);
    c.fill();
  } else {
    c.strokeStyle = colour;
    c.lineWidth = 1.3;
    c.beginPath();
    for (const shift of [-side, 0, side]) {
      c.moveTo(shift, side);
      c.lineTo(shift + side, 0);
    }
    c.stroke();
  }
  tiles.set(colour + texture, tile);
  return tile;
}
