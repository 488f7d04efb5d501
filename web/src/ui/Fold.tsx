/** A card of details that can be folded away; what is folded is remembered by its title. */
import { useState, type ReactNode } from "react";
import { keep, kept } from "../kept";

const key = (title: string) => `fold-${title}`;

export function Fold({
  title,
  note,
  open = true,
  needed = false,
  children,
}: {
  title: string;
  note?: ReactNode;
  open?: boolean;
  /** Whether it is open however it was left: a tool that is in hand is told what it does there. */
  needed?: boolean;
  children: ReactNode;
}) {
  const [told, setTold] = useState(() => kept(key(title)));
  const shown = needed || (told === null ? open : told === "open");
  return (
    <section className="card-sheet fold">
      <button
        type="button"
        className="fold-head"
        aria-expanded={shown}
        onClick={() => {
          const next = shown ? "folded" : "open";
          keep(key(title), next);
          setTold(next);
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
