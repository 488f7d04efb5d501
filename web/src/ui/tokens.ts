/** The colours of the theme, for what is painted and not styled. */
import { useSyncExternalStore } from "react";

/** A colour of the theme, as it is now: `#rrggbb`. */
export const token = (name: string): string =>
  getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();

const root = () => document.documentElement;

function watch(changed: () => void): () => void {
  const observer = new MutationObserver(changed);
  observer.observe(root(), { attributes: true, attributeFilter: ["data-bs-theme"] });
  return () => observer.disconnect();
}

/** Which theme there is: what is painted in its colours is painted again with another. */
export const useTheme = (): string => useSyncExternalStore(watch, () => root().dataset.bsTheme ?? "light");
