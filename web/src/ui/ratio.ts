/** How fine the screen is that the window is on. */
import { useSyncExternalStore } from "react";

const now = (): number => window.devicePixelRatio || 1;

/** Call `told` whenever the window goes to a screen that is finer or coarser, or the page is zoomed. */
function watched(told: () => void): () => void {
  let query: MediaQueryList;
  const changed = () => {
    listen();
    told();
  };
  const listen = () => {
    query?.removeEventListener("change", changed);
    query = matchMedia(`(resolution: ${now()}dppx)`);
    query.addEventListener("change", changed);
  };
  listen();
  return () => query.removeEventListener("change", changed);
}

/** Pixels of the screen for one pixel of the page. */
export const usePixelRatio = (): number => useSyncExternalStore(watched, now);
