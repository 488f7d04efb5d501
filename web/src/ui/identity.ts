/**
 * A key for each thing of a list whose things have no id: what it says of itself, and how often that was said before.
 * Not its place in the list: when one goes, the others stay what they are, also under a finger that presses one.
 */
export function identities(things: readonly unknown[]): string[] {
  const seen = new Map<string, number>();
  return things.map((thing) => {
    const said = JSON.stringify(thing);
    const before = seen.get(said) ?? 0;
    seen.set(said, before + 1);
    return `${said} ${before}`;
  });
}
