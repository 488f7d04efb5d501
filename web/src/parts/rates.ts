/** Frame rates that are offered: frames in so many seconds. */
export const RATES = [
  [24, 1],
  [25, 1],
  [30, 1],
  [12, 1],
  [24000, 1001],
  [30000, 1001],
] as const;

/** A rate in words. */
export const rateName = (numerator: number, denominator: number): string =>
  `${denominator === 1 ? numerator : (numerator / denominator).toFixed(3)} frames a second`;
