/** A direction on the photo: clockwise on screen from "sideways", in degrees. */
interface Direction {
  readonly angleDeg: number;
}

/** How far a shift lies off a direction, in pixels. */
export function offRail({ angleDeg }: Direction, { dx, dy }: { dx: number; dy: number }): number {
  const angle = (angleDeg * Math.PI) / 180;
  return Math.abs(dy * Math.cos(angle) - dx * Math.sin(angle));
}

/** The shift on the rail nearest to a given one, in whole pixels. */
export function ontoRail(
  { angleDeg }: Direction,
  { dx, dy }: { dx: number; dy: number },
): { dx: number; dy: number } {
  const angle = (angleDeg * Math.PI) / 180;
  const along = dx * Math.cos(angle) + dy * Math.sin(angle);
  return { dx: Math.round(along * Math.cos(angle)), dy: Math.round(along * Math.sin(angle)) };
}
