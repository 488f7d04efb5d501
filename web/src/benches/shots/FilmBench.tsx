/** The Shots bench with the whole film on it instead of one shot. */
import { Button } from "react-bootstrap";
import { partAt, shotsOf, useWorkshop, type Bench } from "../../session";
import { Stage } from "../../stage/Stage";
import type { Tool } from "../../stage/tool";
import { IconButton } from "../../ui/bits";
import type { Pass } from "../../wire/types";
import { openShown } from "./commands";
import { FilmPanel } from "./FilmPanel";
import { FilmRows } from "./FilmRows";
import { PassSwitch } from "./PassSwitch";
import { ShotCards } from "./ShotCards";

const NO_HAND: Tool = { begin: () => null };

/** All shots one after the other. */
export function FilmBench({ seenAs, go }: { seenAs: Pass | null; go: (bench: Bench) => void }) {
  return (
    <>
      <aside className="left" aria-label="Shots">
        <ShotCards />
      </aside>
      <section className="stage-cell" aria-label="Stage">
        <div className="stage-bar">
          <FilmPlace />
          <span className="divider" />
          <PassSwitch own={null} seenAs={seenAs} />
          <span className="flex-grow-1" />
          <Button size="sm" onClick={() => go("render")}>
            Render <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
          </Button>
        </div>
        <Stage tool={NO_HAND} label="The film" />
      </section>
      <aside className="right" aria-label="Details">
        <FilmPanel go={go} />
      </aside>
      <FilmRows />
    </>
  );
}

/** Which shot shows, and the way into it. */
function FilmPlace() {
  const shown = useWorkshop((w) => (w.film ? (partAt(w.film, w.frame)?.shot ?? null) : null));
  const documents = useWorkshop((w) => w.documents);
  const shots = shotsOf({ documents });
  const n = shots.findIndex((s) => s.id === shown);
  return (
    <>
      <span className="film-place text-truncate">{n >= 0 ? `${n + 1} · ${shots[n]!.name}` : ""}</span>
      <IconButton
        icon="box-arrow-in-right"
        label="Open the shot that shows, at this frame"
        keys="Enter"
        text="Open"
        disabled={n < 0}
        onClick={openShown}
      />
    </>
  );
}
