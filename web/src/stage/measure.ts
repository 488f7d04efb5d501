/** With `?measure` in the address, marks of when the hand moved and when what was drawn, for the benchmarks. */
const measuring = typeof location !== "undefined" && new URLSearchParams(location.search).has("measure");

export function measure(
  what: "pointer" | "drawn" | "played" | "tried" | "painted" | "thumbnail",
  detail?: unknown,
): void {
  if (measuring) performance.mark(`sorvan:${what}`, { detail });
}
