/** What the browser keeps of how the page is set, by name; nothing where there is no store to keep it in. */
const stored = <T>(work: (store: Storage) => T): T | null => {
  try {
    return typeof localStorage === "undefined" ? null : work(localStorage);
  } catch {
    // Blocked for this page, or full: then it is as it comes, every time.
    return null;
  }
};

export const kept = (name: string): string | null => stored((store) => store.getItem(`sorvan-${name}`));
export const keep = (name: string, value: string): void => void stored((s) => s.setItem(`sorvan-${name}`, value));

/** What was kept of an object's fields, over what they start as. */
export function keptFields<T extends object>(name: string, start: T): T {
  try {
    return { ...start, ...(JSON.parse(kept(name) ?? "{}") as Partial<T>) };
  } catch {
    return start;
  }
}
