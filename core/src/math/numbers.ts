/** A number with so many digits behind the point. */
export const round = (v: number, digits: number): number => Number(v.toFixed(digits));

/** A number kept in a range. */
export const clamp = (v: number, [min, max]: readonly [number, number]): number => Math.min(max, Math.max(min, v));
