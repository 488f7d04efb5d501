/** A card of details that can be folded away; what is folded is remembered by its title. */
import { useState, type ReactNode } from "react";

const key = (title: string) => `sorvan-fold-${title}`;

export function Fold({ title, note, open = true, children }: { title: string; note?: ReactNode; open?: boolean; children: ReactNode }) {
  const [shown, setShown] = useState(() => {
    const kept = localStorage.getItem(key(title));
    return kept === null ? open : kept === "open";
  });
  return (
    <section className="card-sheet fold">
      <button
        type="button"
        className="fold-head"
        aria-expanded={shown}
        onClick={() => {
          localStorage.setItem(key(title), shown ? "folded" : "open");
          setShown(!shown);
        }}
      >
        <i className={`bi bi-chevron-${shown ? "down" : "right"}`} aria-hidden="true" />
        <span className="heading flex-grow-1">{title}</span>
        {note !== undefined && <span className="faint small">{note}</span>}
      </button>
      {shown && <div className="fold-body">{children}</div>}
    </section>
  );
}
