/**
 * Rows that one walks through by the keyboard, a list box or a tree (WAI-ARIA Authoring Practices 1.2, “Listbox”
 * and “Tree View”): one tab stop for all of them, arrows from row to row, Home and End to the ends. In a list
 * box Shift takes in what one passes, Ctrl passes without choosing, and Space adds or takes away; in a tree Left
 * folds a row or goes to what it hangs on, and Right unfolds it or goes to the first that hangs on it. Rows with buttons
 * of their own are a grid (the same, “Grid”): Right goes to the buttons of a row, and Left back. Cards are a list box laid
 * out in lines: one walks them in both directions, and only Enter or Space chooses. Letters go to the next row that begins
 * with them. A row that was clicked leaves the keys to the bench.
 */
import {
  createContext,
  type CSSProperties,
  type HTMLAttributes,
  type KeyboardEvent,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { type Carried, type Onto, useCarried, useOnto } from "./Carrying";

/** How a row was chosen: alone, with all from the last chosen to it, or added to what is chosen. */
export type Choice = "alone" | "through" | "toggle";

/** What is chosen of rows in their order after one was chosen in this way; the last is the one that was taken last. */
export function chosenWith(ids: readonly string[], chosen: readonly string[], id: string, how: Choice): string[] {
  if (how === "toggle") return chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id];
  const from = how === "through" ? ids.indexOf(chosen[chosen.length - 1] ?? id) : -1;
  if (from < 0) return [id];
  const to = ids.indexOf(id);
  const passed = ids.slice(Math.min(from, to), Math.max(from, to) + 1).filter((p) => p !== id);
  return [...new Set([...chosen.filter((c) => c !== id), ...passed, id])];
}

type Kind = "listbox" | "tree" | "grid" | "cards";

interface Walk {
  kind: Kind;
  /** The row that the tab key comes to. */
  stop: string | null;
  here: (id: string) => void;
  choose: (id: string, how: Choice) => void;
}

const Walked = createContext<Walk | null>(null);

interface RowsProps {
  kind: Kind;
  label: string;
  /** Whether several rows can be chosen. */
  multiple?: boolean;
  /** The rows in their order; of those chosen the first is where the tab key comes in. */
  ids: readonly string[];
  chosen: readonly string[];
  choose: (id: string, how: Choice) => void;
  /** In a tree: fold a row, or unfold it. */
  fold?: (id: string, open: boolean) => void;
  className?: string;
  style?: CSSProperties;
  children: ReactNode;
}

export function Rows({
  kind,
  label,
  multiple = false,
  ids,
  chosen,
  choose,
  fold,
  className = "",
  style,
  children,
}: RowsProps) {
  const box = useRef<HTMLDivElement>(null);
  const [last, setLast] = useState<string | null>(null);
  const typed = useRef({ text: "", at: 0 });
  const latest = useRef(choose);
  latest.current = choose;
  const stop =
    last && ids.includes(last) && (!chosen.length || chosen.includes(last) || kind === "cards")
      ? last
      : (ids.find((id) => chosen.includes(id)) ?? (last && ids.includes(last) ? last : (ids[0] ?? null)));

  // The rows are told anew only where the tab key comes in elsewhere.
  const walk = useMemo<Walk>(
    () => ({ kind, stop, here: setLast, choose: (id, how) => latest.current(id, how) }),
    [kind, stop],
  );
  const rows = () => [...box.current!.querySelectorAll<HTMLElement>("[data-row]")];
  const go = (row: HTMLElement | undefined, event: KeyboardEvent) => {
    event.preventDefault();
    if (!row) return;
    row.focus();
    const id = row.dataset.row!;
    setLast(id);
    if (kind !== "cards" && !(event.ctrlKey || event.metaKey))
      choose(id, multiple && event.shiftKey ? "through" : "alone");
  };
  // What was chosen elsewhere, as on the stage, comes into sight.
  const first = chosen[0];
  useEffect(() => {
    const list = box.current!;
    const row = first === undefined ? null : list.querySelector<HTMLElement>(`[data-row="${CSS.escape(first)}"]`);
    if (!row || list.scrollHeight <= list.clientHeight) return;
    const [outer, inner] = [list.getBoundingClientRect(), row.getBoundingClientRect()];
    list.scrollTop += Math.min(0, inner.top - outer.top) + Math.max(0, inner.bottom - outer.bottom);
  }, [first]);

  /** To the next row whose name begins with what is typed in one go. */
  const find = (all: HTMLElement[], at: number, going: boolean, event: KeyboardEvent) => {
    const text = (going ? typed.current.text : "") + event.key.toLowerCase();
    typed.current = { text, at: Date.now() };
    // The same letter again goes from one to the next; a longer beginning may be that of the row itself.
    const wanted = [...text].every((letter) => letter === text[0]) ? text[0]! : text;
    const from = wanted.length > 1 ? at : at + 1;
    const turned = [...all.slice(from), ...all.slice(0, from)];
    go(
      turned.find((r) => nameOf(r).startsWith(wanted)),
      event,
    );
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const row = (event.target as HTMLElement).closest<HTMLElement>("[data-row]");
    if (!row || event.altKey) return;
    if (kind === "grid" && across(row, event)) return;
    // A button in a row has keys of its own.
    if (event.target !== row && !(kind === "grid" && UPRIGHT.includes(event.key))) return;
    const all = rows();
    const at = all.indexOf(row);
    const level = (r: HTMLElement) => Number(r.getAttribute("aria-level") ?? 1);
    const going = Date.now() - typed.current.at < TOGETHER;
    if ((going ? BEGUN : LETTER).test(event.key) && !event.ctrlKey && !event.metaKey) find(all, at, going, event);
    else if (kind === "cards" && event.key in WAYS) go(beside(all, at, WAYS[event.key]!), event);
    else if (event.key === "ArrowDown") go(all[at + 1], event);
    else if (event.key === "ArrowUp") go(all[at - 1], event);
    else if (event.key === "Home") go(all[0], event);
    else if (event.key === "End") go(all[all.length - 1], event);
    else if (kind === "tree" && fold && event.key === "ArrowLeft" && row.ariaExpanded === "true") {
      event.preventDefault();
      fold(row.dataset.row!, false);
    } else if (kind === "tree" && fold && event.key === "ArrowRight" && row.ariaExpanded === "false") {
      event.preventDefault();
      fold(row.dataset.row!, true);
    } else if (kind === "tree" && event.key === "ArrowLeft")
      go(
        all
          .slice(0, at)
          .reverse()
          .find((r) => level(r) < level(row)),
        event,
      );
    else if (kind === "tree" && event.key === "ArrowRight")
      go(all[at + 1] && level(all[at + 1]!) > level(row) ? all[at + 1] : undefined, event);
    // Across there is nothing to walk to; the bench must not take these keys for its own either.
    else if (event.key === "ArrowLeft" || event.key === "ArrowRight") event.preventDefault();
    else if (event.key === "Enter" || event.key === " ") {
      event.preventDefault();
      choose(row.dataset.row!, multiple && event.key === " " ? "toggle" : "alone");
    }
  };
  return (
    <div
      ref={box}
      className={kind === "cards" ? className : `list ${className}`}
      style={style}
      role={kind === "cards" ? "listbox" : kind}
      aria-label={label}
      aria-multiselectable={multiple || undefined}
      tabIndex={-1}
      onKeyDown={onKeyDown}
    >
      <Walked.Provider value={walk}>{children}</Walked.Provider>
    </div>
  );
}

/** What begins a name, and what goes on with it. */
const LETTER = /^\p{L}$/u;
const BEGUN = /^[\p{L}\d-]$/u;
/** Milliseconds between letters of one beginning. */
const TOGETHER = 700;

const nameOf = (row: HTMLElement): string =>
  (row.querySelector(".name")?.textContent ?? row.textContent).trim().toLowerCase();

const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The card that lies nearest in a direction: along the line, or in the line above or below. */
function beside(all: HTMLElement[], at: number, [dx, dy]: [number, number]): HTMLElement | undefined {
  if (dx) return all[at + dx];
  const middle = (r: HTMLElement) => r.offsetLeft + r.offsetWidth / 2;
  const here = all[at]!;
  const beyond = all.filter((r) => (r.offsetTop - here.offsetTop) * dy > here.offsetHeight / 2);
  const line = Math.min(...beyond.map((r) => Math.abs(r.offsetTop - here.offsetTop)));
  return beyond
    .filter((r) => Math.abs(r.offsetTop - here.offsetTop) < line + here.offsetHeight / 2)
    .sort((a, b) => Math.abs(middle(a) - middle(here)) - Math.abs(middle(b) - middle(here)))[0];
}

const UPRIGHT = ["ArrowUp", "ArrowDown"];

/** From a row to its buttons, from one to the next, and back. */
function across(row: HTMLElement, event: KeyboardEvent): boolean {
  if (event.key !== "ArrowLeft" && event.key !== "ArrowRight") return false;
  event.preventDefault();
  const all = [row, ...row.querySelectorAll("button")];
  const at = all.indexOf(event.target as HTMLElement);
  all[at + (event.key === "ArrowRight" ? 1 : -1)]?.focus();
  return true;
}

interface RowProps extends Omit<HTMLAttributes<HTMLDivElement>, "id"> {
  /** What is carried by this row, and what can be carried onto it; the class that it has under what would land there. */
  carried?: Carried | null;
  onto?: Onto | null;
  landing?: string;
  id: string;
  chosen: boolean;
  /** In a tree: how deep it hangs, from 1. */
  level?: number;
  /** In a tree: whether what hangs on it is shown; nothing where nothing does. */
  open?: boolean;
  /** In a grid: the buttons of the row. */
  actions?: ReactNode;
}

const ROLES = { listbox: "option", tree: "treeitem", grid: "row", cards: "option" } as const;

/** One row of `Rows`. */
export function Row({ carried, onto, landing, ...row }: RowProps) {
  return carried || onto ? (
    <CarriedRow {...row} carried={carried} onto={onto} landing={landing} />
  ) : (
    <PlainRow {...row} />
  );
}

/** A row that is carried, or onto which others are. */
function CarriedRow({ carried, onto, landing = "dropping", className = "", ...row }: RowProps) {
  const { ref: hold, ...carrying } = useCarried(carried ?? null);
  const { ref: under, over } = useOnto(onto ?? null);
  const both = useCallback(
    (element: HTMLElement | null) => {
      hold(element);
      under(element);
    },
    [hold, under],
  );
  return <PlainRow {...row} {...carrying} hold={both} className={over ? `${className} ${landing}` : className} />;
}

type PlainRowProps = Omit<RowProps, "carried" | "onto" | "landing"> & { hold?: (element: HTMLElement | null) => void };

function PlainRow({ id, chosen, level, open, className = "", children, actions, hold, ...rest }: PlainRowProps) {
  const walk = useContext(Walked)!;
  const row = useRef<HTMLDivElement>(null);
  const held = useCallback(
    (element: HTMLDivElement | null) => {
      row.current = element;
      hold?.(element);
    },
    [hold],
  );
  // The tab key comes to the row alone; its buttons are a step to the right.
  useEffect(() => row.current!.querySelectorAll("button").forEach((b) => (b.tabIndex = -1)));
  const grid = walk.kind === "grid";
  return (
    // The keys are the list's: it has one handler for all its rows.
    // eslint-disable-next-line jsx-a11y/click-events-have-key-events
    <div
      {...rest}
      ref={held}
      data-row={id}
      role={ROLES[walk.kind]}
      aria-selected={chosen}
      aria-level={level}
      aria-expanded={open}
      tabIndex={walk.stop === id ? 0 : -1}
      className={`${walk.kind === "cards" ? "drawing-card" : "row-item"}${chosen ? " chosen" : ""} ${className}`}
      onClick={(event) => {
        walk.here(id);
        walk.choose(id, event.ctrlKey || event.metaKey ? "toggle" : event.shiftKey ? "through" : "alone");
        // What was chosen by hand is worked on by the keys of the bench; the tab key comes back to it here.
        if (event.detail > 0) event.currentTarget.blur();
      }}
    >
      {grid ? (
        <span role="gridcell" className="cell">
          {children}
        </span>
      ) : (
        children
      )}
      {actions && (
        <span role="gridcell" className="cell">
          {actions}
        </span>
      )}
    </div>
  );
}
