/** What the browser keeps of how the page is set, by name; nothing where there is no store to keep it in. */
const store = (): Storage | null => (typeof localStorage === "undefined" ? null : localStorage);

export const kept = (name: string): string | null => store()?.getItem(`sorvan-${name}`) ?? null;
export const keep = (name: string, value: string): void => store()?.setItem(`sorvan-${name}`, value);

/** What was kept of an object's fields, over what they start as. */
export function keptFields<T extends object>(name: string, start: T): T {
  try {
    return { ...start, ...(JSON.parse(kept(name) ?? "{}") as Partial<T>) };
  } catch {
    return start;
  }
}
