/** The shots of the film as cards, in their order: what each shows, how long it is, and how far it has come. */
import { Button } from "react-bootstrap";
import { frameRate, playedOf, shotsOf, submit, useWorkshop } from "../../session";
import { PanelHead } from "../../ui/bits";
import { Menu } from "../../ui/Menu";
import { Row, Rows } from "../../ui/Rows";
import { thumbnailOf } from "../../wire/http";
import type { Shot } from "../../wire/types";
import { addShot, duplicateShot, openFilm, openShot, splitShot } from "./commands";
import { useHeld, useOverview } from "../../parts/overview";

/** Minutes, seconds and frames. */
export function clockTime(frames: number, rate: number): string {
  const seconds = frames / rate;
  const [m, s] = [Math.floor(seconds / 60), seconds % 60];
  return m ? `${m} min ${s.toFixed(1)} s` : `${s.toFixed(1)} s`;
}

export function ShotCards() {
  const documents = useWorkshop((w) => w.documents);
  const chosen = useWorkshop((w) => (w.wholeFilm ? null : w.shot));
  const production = useWorkshop((w) => w.id);
  const shots = shotsOf({ documents });
  const rate = frameRate({ documents });
  const overview = useOverview();
  const held = useHeld(shots);
  const place = (dragged: string, before: string | null) => {
    const others = shots.filter((s) => s.id !== dragged);
    const at = before ? others.findIndex((s) => s.id === before) : others.length;
    void submit({ do: "order-shots", shot: dragged, after: others[at - 1]?.id ?? null });
  };
  return (
    <div className="card-sheet shot-cards">
      <PanelHead title="Shots">
        <span className="flex-grow-1" />
        <Menu
          label="Change the shots"
          align="end"
          entries={[
            { text: "New shot after this one", run: () => void addShot() },
            { text: "Duplicate this shot", run: () => void duplicateShot(), disabled: !chosen },
            { text: "Cut this shot in two at the frame that shows", run: () => void splitShot(), disabled: !chosen },
            "line",
            ...["earlier", "later"].map((way) => ({
              text: `Put it one place ${way}`,
              disabled: !chosen,
              run: () => {
                const at = shots.findIndex((s) => s.id === chosen);
                const next = way === "earlier" ? shots[at - 1]?.id : shots[at + 2]?.id;
                if (way === "earlier" ? at > 0 : at < shots.length - 1) place(chosen!, next ?? null);
              },
            })),
            "line",
            {
              text: "Remove this shot",
              run: () => void submit({ do: "remove-shots", shots: [chosen!] }),
              disabled: !chosen,
            },
          ]}
        >
          <i className="bi bi-three-dots" aria-hidden="true" />
        </Menu>
      </PanelHead>
      {shots.length > 0 && <WholeFilm count={shots.length} frames={overview?.frames} rate={rate} />}
      <Rows
        kind="listbox"
        label="Shots in their order"
        ids={shots.map((s) => s.id)}
        chosen={chosen ? [chosen] : []}
        choose={(id) => openShot(id)}
        className="flex-grow-1"
      >
        {shots.map((shot, n) => (
          <Row
            key={shot.id}
            id={shot.id}
            chosen={shot.id === chosen}
            className="shot-card"
            carried={{ kind: "shot", id: shot.id, name: shot.name }}
            onto={{
              takes: ({ kind, id }) => kind === "shot" && id !== shot.id,
              drop: ({ id }) => place(id, shot.id),
            }}
            landing="over"
          >
            <Card
              shot={shot}
              n={n}
              rate={rate}
              production={production}
              todo={overview?.shots[shot.id]}
              held={held.includes(shot)}
            />
          </Row>
        ))}
      </Rows>
      <div className="p-2">
        <Button size="sm" variant="outline-primary" className="w-100" onClick={() => void addShot()}>
          <i className="bi bi-plus-lg me-1" aria-hidden="true" />
          New shot
        </Button>
      </div>
    </div>
  );
}

/** All shots one after the other, to be looked at and played as the film. */
function WholeFilm({ count, frames, rate }: { count: number; frames?: number; rate: number }) {
  const on = useWorkshop((w) => w.wholeFilm);
  return (
    <button
      type="button"
      className={`whole-film${on ? " chosen" : ""}`}
      aria-pressed={on}
      onClick={openFilm}
      title="All shots one after the other (f)"
    >
      <i className="bi bi-film" aria-hidden="true" />
      <span className="flex-grow-1">
        Whole film
        <br />
        <span className="faint small">
          {count === 1 ? "1 shot" : `${count} shots`}
          {frames !== undefined && `, ${clockTime(frames, rate)}`}
        </span>
      </span>
    </button>
  );
}

interface Todo {
  findings: number;
  picture: string;
}

function Card({
  shot,
  n,
  rate,
  production,
  todo,
  held,
}: {
  shot: Shot;
  n: number;
  rate: number;
  production: string;
  todo?: Todo;
  held: boolean;
}) {
  const [first, stop] = playedOf(shot);
  const joined = shot.join?.kind;
  return (
    <>
      {n > 0 && joined !== "cut" && (
        <span
          className="joined"
          title={`${joined === "fade" ? "Fades" : "Dissolves"} over ${shot.join?.frames} frames`}
        >
          <i className={`bi bi-${joined === "fade" ? "circle-half" : "intersect"}`} aria-hidden="true" /> {joined}
        </span>
      )}
      {/* The card is what is dragged, and not the picture by itself. */}
      <img
        src={thumbnailOf(production, shot.id, todo?.picture ?? "")}
        alt=""
        loading="lazy"
        width={176}
        height={99}
        draggable={false}
      />
      <span className="shot-name">
        <span className="number">{n + 1}</span>
        <span className="text-truncate">{shot.name}</span>
      </span>
      <span className="shot-facts">
        <span className={`pass ${shot.stage}`} title={held ? "Shown and rendered with its poses held" : undefined}>
          {shot.stage}
          {held && ", poses held"}
        </span>
        <span className="faint">{clockTime(stop - first, rate)}</span>
        {todo !== undefined && todo.findings > 0 && (
          <span className="todo" title={`${todo.findings} likely mistakes`}>
            <i className="bi bi-flag-fill" aria-hidden="true" /> {todo.findings}
            <span className="visually-hidden"> to look at</span>
          </span>
        )}
      </span>
    </>
  );
}
