/**
 * How large the user wants text, against the usual 16 px of a browser. What is laid out by number, as the rows of the sheets
 * are, grows with it.
 */
export const TEXT =
  typeof document === "undefined"
    ? 1
    : Math.max(1, Math.min(2, parseFloat(getComputedStyle(document.documentElement).fontSize) / 16 || 1));

/** So many of a thing, in words. */
export const several = (count: number, one: string): string => `${count} ${one}${count === 1 ? "" : "s"}`;

/** So many screen pixels at the usual size of text. */
export const px = (usual: number): number => Math.round(usual * TEXT);
