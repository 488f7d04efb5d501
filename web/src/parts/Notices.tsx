import { useEffect, type ReactNode } from "react";
import { dismiss, useNotices, useWorkshop } from "../session";
import { useShallow } from "zustand/react/shallow";

/** What the user is told, behind what is under way. */
export function Notices({ children }: { children?: ReactNode }) {
  const notices = useNotices();
  const newest = notices.at(-1)?.id;
  useEffect(() => {
    if (newest === undefined) return undefined;
    const listen = (event: KeyboardEvent) => {
      if (event.key === "Escape") dismiss(newest);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [newest]);
  return (
    <div className="toasts" aria-live="polite">
      {children}
      {notices.map((n) => (
        <div key={n.id} className={`notice card-sheet${n.good ? " good" : ""}`} role={n.good ? "status" : "alert"}>
          <div className="d-flex align-items-start">
            <strong className="flex-grow-1">{n.title}</strong>
            <button type="button" className="icon-btn quiet" aria-label="Close" onClick={() => dismiss(n.id)}>
              <i className="bi bi-x-lg" aria-hidden="true" />
            </button>
          </div>
          <div>{n.text}</div>
          {n.more?.map((line) => (
            <div key={line} className="faint">
              {line}
            </div>
          ))}
        </div>
      ))}
    </div>
  );
}

export function ConnectionBanner() {
  const { connected, database, ready, saved } = useWorkshop(
    useShallow((w) => ({ connected: w.connected, database: w.database, ready: w.ready, saved: w.saved })),
  );
  if (ready && connected && database) return null;
  if (!ready && saved === "saved" && database) return null;
  const text = database
    ? "Sorvan does not answer. Is it still running? Trying again…"
    : "The database is away. What was acknowledged is safe; trying again…";
  return (
    <div className="banner card-sheet" role="alert">
      <span className="spinner-border spinner-border-sm me-2" aria-hidden="true" />
      {text}
    </div>
  );
}
