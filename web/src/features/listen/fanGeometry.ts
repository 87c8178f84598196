/**
 * The map's fan: the angle is the pan position, the radius the frequency, low at the pivot and high at the rim. A place
 * on it is `pan` from −1, left, to 1, right, and `up` from 0, the lowest frequency, to 1, the highest.
 */

export type Fan = { x: number; y: number; inner: number; outer: number };
export type Spot = { x: number; y: number };

/** The angle drawn from the middle to either end. */
const HALF = (35 * Math.PI) / 180;
/** How far from the pivot the lowest frequency is, so that there is room for directions: a share of the rim's radius. */
const CORE = 0.14;
/** Pixels that stay free at the rim and beside it for labels and handles. */
const MARGIN = 28;

/** The largest fan that fits. */
export function fanIn(width: number, height: number): Fan {
  const outer = Math.max(1, Math.min(height - 2 * MARGIN, (width / 2 - MARGIN) / Math.sin(HALF)));
  const above = (height - outer * (1 - CORE * Math.cos(HALF))) / 2;
  return { x: width / 2, y: above + outer, inner: CORE * outer, outer };
}

export function spotAt({ x, y, inner, outer }: Fan, pan: number, up: number): Spot {
  const radius = inner + (outer - inner) * up;
  return { x: x + radius * Math.sin(pan * HALF), y: y - radius * Math.cos(pan * HALF) };
}

/** The inverse of `spotAt`, also beyond the fan's edges. */
export function placeAt({ x, y, inner, outer }: Fan, spot: Spot): { pan: number; up: number } {
  const [across, above] = [spot.x - x, y - spot.y];
  return { pan: Math.atan2(across, above) / HALF, up: (Math.hypot(across, above) - inner) / (outer - inner) };
}

/** A piece of the fan as an SVG path, between two directions and two arcs. */
export function piece(fan: Fan, [left, right]: readonly number[], [low, high]: readonly number[]): string {
  const at = (pan = 0, up = 0) => {
    const spot = spotAt(fan, pan, up);
    return `${spot.x.toFixed(2)} ${spot.y.toFixed(2)}`;
  };
  const radius = (up = 0) => (fan.inner + (fan.outer - fan.inner) * up).toFixed(2);
  return [
    `M${at(left, low)}`,
    `L${at(left, high)}`,
    `A${radius(high)} ${radius(high)} 0 0 1 ${at(right, high)}`,
    `L${at(right, low)}`,
    `A${radius(low)} ${radius(low)} 0 0 0 ${at(left, low)}Z`,
  ].join("");
}
