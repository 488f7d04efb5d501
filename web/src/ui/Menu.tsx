/**
 * A button with a menu (WAI-ARIA Authoring Practices 1.2, “Menu Button”): Enter or the down arrow opens it, arrows
 * walk, Enter does, Escape closes it and gives the focus back.
 */
import { forwardRef, useEffect, useRef, useState, type ComponentPropsWithoutRef, type ReactNode } from "react";
import { Dropdown } from "react-bootstrap";
import { named } from "./bits";

export interface Entry {
  key?: string;
  text: ReactNode;
  run: () => void;
  disabled?: boolean;
  /** Of entries one of which is chosen: whether this one is. */
  chosen?: boolean;
}

/** Entries in their order; a line is drawn where there is none. Those that do not apply are left out. */
export type Entries = (Entry | "line" | false | null | undefined)[];

interface MenuProps {
  /** What the button says. */
  children: ReactNode;
  /** What the button is called where it says too little by itself. */
  label?: string;
  entries: Entries;
  className?: string;
  /** How the button looks: as the heading of a card, or as one of the small buttons of a panel. */
  look?: "heading" | "button";
  align?: "start" | "end";
}

const LOOKS = {
  heading: "w-100 text-start text-decoration-none d-flex align-items-center heading",
  button: "icon-btn text-decoration-none",
};

/** An entry. The library's own is a link, which loses that it is disabled. */
const Line = forwardRef<HTMLButtonElement, ComponentPropsWithoutRef<"button">>((props, ref) => (
  <button type="button" tabIndex={-1} ref={ref} {...props} />
));
Line.displayName = "Line";

export function Menu({ children, label, entries, className, look = "button", align = "start" }: MenuProps) {
  const shown = entries.filter((e): e is Entry | "line" => !!e);
  const [open, setOpen] = useState(false);
  const chosen = useRef<(() => void) | null>(null);
  // What was chosen is done once the menu has closed and given the focus back: a dialog that it opens keeps the caret.
  useEffect(() => {
    if (open) return;
    const run = chosen.current;
    chosen.current = null;
    run?.();
  }, [open]);
  return (
    <Dropdown align={align} className={className} show={open} onToggle={setOpen}>
      <Dropdown.Toggle
        variant="link"
        size={look === "button" ? "sm" : undefined}
        className={LOOKS[look]}
        style={look === "heading" ? { color: "var(--ink)" } : undefined}
        aria-label={label && named(label, typeof children === "string" ? children : undefined)}
        aria-haspopup="menu"
      >
        {look === "heading" ? <span className="flex-grow-1 text-truncate">{children}</span> : children}
      </Dropdown.Toggle>
      <Dropdown.Menu role="menu">
        {shown.map((e, i) =>
          e === "line" ? (
            <Dropdown.Divider key={i} />
          ) : (
            <Dropdown.Item
              as={Line}
              key={e.key ?? i}
              role={e.chosen === undefined ? "menuitem" : "menuitemradio"}
              aria-checked={e.chosen}
              className={e.chosen ? "active" : undefined}
              disabled={e.disabled}
              onClick={() => (chosen.current = e.run)}
            >
              {e.text}
            </Dropdown.Item>
          ),
        )}
      </Dropdown.Menu>
    </Dropdown>
  );
}
