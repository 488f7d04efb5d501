/** The mouths of the set: put in by a click, a key or up and down; named, drawn and given their sounds here. */
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { get, set, submit, useWorkshop, type Bench } from "../../session";
import { IconButton } from "../../ui/bits";
import { ColourField, NumberRow, Slider } from "../../ui/fields";
import { Fold } from "../../ui/Fold";
import { Menu } from "../../ui/Menu";
import { spell } from "../../ui/shortcuts";
import type { Exposed, Motion, Mouth, MouthChart, Puppet } from "../../wire/types";
import {
  keepHand,
  keptHand,
  makeMouths,
  moodAt,
  mouthNow,
  PLAIN,
  putMouth,
  setMood,
  valueOf,
  type Hand,
} from "./commands";
import { MouthThumb } from "./thumbs";
import { DrawingThumb } from "../../parts/PieceSheet";

const DRAWING = "text/sorvan-drawing";
const SOUND = "text/sorvan-sound";

export const DIGITS = ["1", "2", "3", "4", "5", "6", "7", "8", "9", "0"];

export function MouthGrid({
  puppet,
  motion,
  exposed,
  go,
}: {
  puppet: Puppet;
  motion: Motion | undefined;
  exposed: Exposed | undefined;
  go: (bench: Bench) => void;
}) {
  const chart = puppet.mouths;
  if (!chart) return <NoChart puppet={puppet} go={go} />;
  return <Grid puppet={puppet} motion={motion} chart={chart} exposed={exposed} />;
}

function NoChart({ puppet, go }: { puppet: Puppet; go: (bench: Bench) => void }) {
  const dials = Object.values(puppet.dials ?? {}).filter((d) => (d.stops ?? []).length > 1);
  const several = Object.values(puppet.pieces ?? {}).filter((p) => p.drawings.length > 1);
  const likely = several.find((p) => /mouth|lips/i.test(p.name)) ?? several[0];
  const [piece, setPiece] = useState<string | null>(null);
  const chosen = piece ?? likely?.id ?? dials[0]?.id ?? "";
  return (
    <section className="card-sheet" aria-label="Mouth chart">
      <h2 className="heading mb-1">Mouths</h2>
      {several.length || dials.length ? (
        <>
          <p className="hint mt-0">
            Choose the piece whose drawings are the mouths, or the dial that goes through them. Names tell which is
            which.
          </p>
          <div className="d-flex gap-1">
            <Form.Select
              size="sm"
              aria-label="Piece with the mouths"
              value={chosen}
              onChange={(e) => setPiece(e.target.value)}
            >
              {several.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name} ({p.drawings.length} drawings)
                </option>
              ))}
              {dials.map((d) => (
                <option key={d.id} value={d.id}>
                  dial “{d.name}” ({d.stops!.length} stops)
                </option>
              ))}
            </Form.Select>
            <Button
              size="sm"
              className="text-nowrap"
              onClick={() =>
                void submit({
                  do: "propose-mouths",
                  puppet: puppet.id,
                  ...(puppet.dials?.[chosen] ? { dial: chosen } : { piece: chosen }),
                })
              }
            >
              Make the chart
            </Button>
          </div>
        </>
      ) : (
        <>
          <p className="hint mt-0">
            No piece of “{puppet.name}” has several drawings. Add its mouths as drawings of one piece first.
          </p>
          <Button size="sm" onClick={() => go("pieces")}>
            Go to the Pieces bench
          </Button>
        </>
      )}
    </section>
  );
}

function Grid({
  puppet,
  motion,
  chart,
  exposed,
}: {
  puppet: Puppet;
  motion: Motion | undefined;
  chart: MouthChart;
  exposed: Exposed | undefined;
}) {
  const [hand, setHandNow] = useState<Hand>(keptHand);
  const [open, setOpen] = useState<string | null>(null);
  const [drop, setDrop] = useState<string | null>(null);
  useWorkshop((w) => (w.playing ? -1 : w.frame));
  useWorkshop((w) => w.documents);
  const setHand = (part: Partial<Hand>) => {
    const next = { ...hand, ...part };
    keepHand(next);
    setHandNow(next);
  };
  const frame = get().frame;
  const here = moodAt(frame);
  const [mood, setShown] = useState<string | null>(null);
  const seen = mood ?? here;
  const mouths = Object.values(chart.mouths ?? {});
  const now = mouthNow(chart);
  const letters = Object.entries(exposed?.letters ?? {});
  const dropped = (event: React.DragEvent, mouth: Mouth) => {
    setDrop(null);
    const drawing = event.dataTransfer.getData(DRAWING);
    const sound = event.dataTransfer.getData(SOUND);
    event.preventDefault();
    if (drawing)
      void submit({ do: "set-mouth", puppet: puppet.id, mouth: mouth.id, mood: seen, shows: [Number(drawing)] });
    if (sound) void submit({ do: "give-sounds", puppet: puppet.id, labels: [sound], mouth: mouth.id });
  };
  const used = new Set(mouths.flatMap((m) => Object.values(m.shows ?? {}).flat()));
  const spare = (puppet.pieces?.[chart.piece ?? ""]?.drawings ?? []).filter((d) => !used.has(d.number ?? 0));
  const chosen = mouths.find((m) => m.id === open);
  return (
    <section className="card-sheet mouth-grid-panel" aria-label="Mouth chart">
      <div className="d-flex align-items-center gap-1 mb-1">
        <h2 className="heading flex-grow-1">
          Mouths <span className="faint small fw-normal">{mouths.length}</span>
        </h2>
        {(chart.moods ?? [PLAIN]).length > 1 && (
          <Menu
            label={`Mood: ${seen}`}
            align="end"
            entries={[
              ...(chart.moods ?? []).map((m) => ({ key: m, text: m, chosen: m === seen, run: () => setShown(m) })),
              "line",
              ...(chart.moods ?? []).map((m) => ({
                key: `key-${m}`,
                text: `Speak ${m} from frame ${frame + 1} on`,
                run: () => {
                  setShown(null);
                  setMood(m);
                },
              })),
            ]}
          >
            {seen}
          </Menu>
        )}
        <SetMenu puppet={puppet} chart={chart} hand={hand} setHand={setHand} />
        <Button size="sm" disabled={!motion} onClick={() => void makeMouths()}>
          Make mouths
        </Button>
      </div>
      <div className="mouth-grid" style={{ gridTemplateColumns: `repeat(auto-fill, minmax(${hand.size}px, 1fr))` }}>
        {mouths.map((mouth, n) => {
          const value = valueOf(mouth, seen);
          const own = mouth.shows?.[seen]?.length;
          const keys = letters.filter(([, id]) => id === mouth.id).map(([k]) => k);
          return (
            <div
              key={mouth.id}
              className={`mouth-card${now?.id === mouth.id ? " chosen" : ""}${drop === mouth.id ? " drop" : ""}`}
              data-mouth={mouth.id}
              onDragOver={(e) => {
                if (e.dataTransfer.types.includes(DRAWING) || e.dataTransfer.types.includes(SOUND)) {
                  e.preventDefault();
                  setDrop(mouth.id);
                }
              }}
              onDragLeave={() => setDrop(null)}
              onDrop={(e) => dropped(e, mouth)}
              role="group"
              aria-label={mouth.name}
            >
              <button
                type="button"
                className="put"
                aria-pressed={now?.id === mouth.id}
                aria-label={`Put in ${mouth.name}`}
                title={`${mouth.name}: put it on this frame${keys.length ? ` (${keys.join(" ").toUpperCase()})` : ""}`}
                style={{ background: chart.backing?.slice(0, 7) }}
                draggable={value !== undefined && chart.piece !== null}
                onDragStart={(e) => e.dataTransfer.setData(DRAWING, String(value))}
                onClick={() => putMouth(mouth)}
              >
                {n < 10 && <span className="key-cap">{spell(DIGITS[n]!)}</span>}
                {value === undefined ? (
                  <i className="bi bi-slash-circle faint" role="img" aria-label="nothing shows it" />
                ) : (
                  <MouthThumb
                    puppet={puppet}
                    chart={chart}
                    value={value}
                    width={hand.size - 10}
                    height={(hand.size - 10) * 0.62}
                  />
                )}
                {!own && value !== undefined && (
                  <span className="borrowed" title={`The plain one: there is none for “${seen}”`}>
                    plain
                  </span>
                )}
              </button>
              <button
                type="button"
                className="mouth-name"
                aria-expanded={open === mouth.id}
                title="Name, look and sounds"
                onClick={() => setOpen(open === mouth.id ? null : mouth.id)}
              >
                {mouth.name}
              </button>
            </div>
          );
        })}
      </div>
      {spare.length > 0 && (
        <div className="spare" aria-label="Drawings that no mouth has">
          <span className="faint small">Drawings that no mouth has: drag one onto a mouth.</span>
          <div className="d-flex flex-wrap gap-1">
            {spare.map((d) => (
              <div
                key={d.id}
                className="drawing-card"
                draggable
                onDragStart={(e) => e.dataTransfer.setData(DRAWING, String(d.number ?? 0))}
              >
                <DrawingThumb drawing={d} width={44} height={30} />
              </div>
            ))}
          </div>
        </div>
      )}
      {chosen && (
        <MouthDetails key={chosen.id} puppet={puppet} chart={chart} mouth={chosen} mood={seen} exposed={exposed} />
      )}
      {Object.entries(exposed?.missing ?? {}).length > 0 && (
        <p className="hint mb-0">
          No mouth for{" "}
          {Object.entries(exposed!.missing)
            .map(([group, id]) => `${group} (${chart.mouths?.[id]?.name ?? id} fills in)`)
            .join(", ")}
          .
        </p>
      )}
    </section>
  );
}

function SetMenu({
  puppet,
  chart,
  hand,
  setHand,
}: {
  puppet: Puppet;
  chart: MouthChart;
  hand: Hand;
  setHand: (part: Partial<Hand>) => void;
}) {
  const [open, setOpen] = useState(false);
  const put = (given: object) => void submit({ do: "set-mouth-set", puppet: puppet.id, ...given });
  const [name, setName] = useState("");
  return (
    <div className="position-relative">
      <IconButton
        icon="sliders2"
        label="The set: size, colour, moods, keys"
        pressed={open}
        onClick={() => setOpen(!open)}
      />
      {open && (
        <div className="card-sheet set-menu">
          <div className="fields">
            <label htmlFor="set-size">Size</label>
            <Slider
              id="set-size"
              min={56}
              max={150}
              value={hand.size}
              onSlide={(size) => setHand({ size })}
              onCommit={(size) => setHand({ size })}
            />
            <span className="faint">Backing</span>
            <ColourField
              label="Colour behind the mouths"
              value={chart.backing ?? "#f3d9c2ff"}
              onCommit={(backing) => put({ backing })}
            />
            <NumberRow
              id="set-late"
              label="The hand is late by"
              value={hand.late}
              unit="fr"
              digits={0}
              min={0}
              max={12}
              onCommit={(late) => setHand({ late })}
            />
            <NumberRow
              id="set-every"
              label="Moving mouths: a drawing every"
              value={chart.every ?? 2}
              unit="fr"
              digits={0}
              min={1}
              max={12}
              onCommit={(every) => put({ every })}
            />
            <NumberRow
              id="set-blend"
              label="Blend into the next over"
              value={chart.blend ?? 0}
              unit="fr"
              digits={0}
              min={0}
              max={3}
              onCommit={(blend) => put({ blend })}
            />
          </div>
          <form
            className="d-flex gap-1 mt-1"
            onSubmit={(e) => {
              e.preventDefault();
              if (name.trim()) put({ moods: [...(chart.moods ?? [PLAIN]), name.trim()] });
              setName("");
            }}
          >
            <input
              className="form-control form-control-sm"
              aria-label="New mood"
              placeholder="New mood"
              value={name}
              maxLength={40}
              onChange={(e) => setName(e.target.value)}
            />
            <Button size="sm" type="submit" variant="outline-primary" className="text-nowrap">
              Add
            </Button>
          </form>
          <div className="d-flex gap-1 mt-1">
            <Button
              size="sm"
              variant="outline-primary"
              onClick={() => {
                const id = `m${Date.now().toString(36)}`;
                void submit({ do: "set-mouth", puppet: puppet.id, mouth: id, name: "new mouth" });
              }}
            >
              Add a mouth
            </Button>
            <Button
              size="sm"
              variant="outline-primary"
              onClick={() => void submit({ do: "set-mouths", puppet: puppet.id, chart: null })}
            >
              Take the chart away
            </Button>
          </div>
        </div>
      )}
    </div>
  );
}

const LOOK = ["open", "wide", "round", "teeth", "tongue"];

function MouthDetails({
  puppet,
  chart,
  mouth,
  mood,
  exposed,
}: {
  puppet: Puppet;
  chart: MouthChart;
  mouth: Mouth;
  mood: string;
  exposed: Exposed | undefined;
}) {
  const [name, setName] = useState<string | null>(null);
  const sounds = exposed?.sounds[mouth.id] ?? [];
  const commit = () => {
    if (name?.trim() && name.trim() !== mouth.name)
      void submit({ do: "set-mouth", puppet: puppet.id, mouth: mouth.id, name: name.trim() });
    setName(null);
  };
  const drawings = puppet.pieces?.[chart.piece ?? ""]?.drawings ?? [];
  const shows = mouth.shows?.[mood] ?? [];
  return (
    <Fold title={`“${mouth.name}”`} note={`${sounds.length} sounds`}>
      <div className="fields">
        <label htmlFor="mouth-name">Name</label>
        <input
          id="mouth-name"
          className="form-control form-control-sm"
          value={name ?? mouth.name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          onBlur={commit}
          onKeyDown={(e) => {
            if (e.key === "Enter") commit();
            if (e.key === "Escape") {
              setName(null);
              e.currentTarget.blur();
            }
          }}
        />
        {LOOK.map((part, n) => (
          <LookRow key={part} part={part} n={n} puppet={puppet} mouth={mouth} />
        ))}
        {drawings.length > 0 && (
          <>
            <span className="faint">Drawings ({mood})</span>
            <span className="d-flex gap-1 flex-wrap align-items-center">
              {shows.map((value, n) => (
                <button
                  key={`${value}-${n}`}
                  type="button"
                  className="icon-btn"
                  title="Take it out"
                  onClick={() =>
                    void submit({
                      do: "set-mouth",
                      puppet: puppet.id,
                      mouth: mouth.id,
                      mood,
                      shows: shows.filter((_, k) => k !== n),
                    })
                  }
                >
                  <MouthThumb puppet={puppet} chart={chart} value={value} width={34} height={22} /> ×
                </button>
              ))}
              <Menu
                label="Add a drawing, shown after the others"
                entries={drawings.map((d) => ({
                  key: d.id,
                  text: d.name,
                  run: () =>
                    void submit({
                      do: "set-mouth",
                      puppet: puppet.id,
                      mouth: mouth.id,
                      mood,
                      shows: [...shows, d.number ?? 0],
                    }),
                }))}
              >
                <i className="bi bi-plus" aria-hidden="true" />
              </Menu>
            </span>
          </>
        )}
      </div>
      <div className="sounds mt-1" aria-label={`Sounds that take ${mouth.name}`}>
        {sounds.map((label) => (
          <Menu
            key={label}
            label={`${label || "pause"}: give it to another mouth`}
            entries={[
              ...Object.values(chart.mouths ?? {})
                .filter((m) => m.id !== mouth.id)
                .map((m) => ({
                  key: m.id,
                  text: `to ${m.name}`,
                  run: () => void submit({ do: "give-sounds", puppet: puppet.id, labels: [label], mouth: m.id }),
                })),
              chart.sounds?.[label] !== undefined && "line",
              chart.sounds?.[label] !== undefined && {
                text: "back to its usual mouth",
                run: () => void submit({ do: "give-sounds", puppet: puppet.id, labels: [label], mouth: null }),
              },
            ]}
          >
            <span
              draggable
              onDragStart={(e) => e.dataTransfer.setData(SOUND, label)}
              className={chart.sounds?.[label] !== undefined ? "fw-bold" : ""}
            >
              {label}
            </span>
          </Menu>
        ))}
      </div>
      <Button
        size="sm"
        variant="outline-primary"
        className="mt-1"
        onClick={() => {
          set({ keys: [] });
          void submit({ do: "remove-mouth", puppet: puppet.id, mouth: mouth.id });
        }}
      >
        Remove this mouth
      </Button>
    </Fold>
  );
}

function LookRow({ part, n, puppet, mouth }: { part: string; n: number; puppet: Puppet; mouth: Mouth }) {
  return (
    <NumberRow
      id={`look-${part}`}
      label={part}
      value={100 * mouth.look[n]!}
      unit="%"
      digits={0}
      min={0}
      max={100}
      onCommit={(v) => {
        const look = [...mouth.look] as Mouth["look"];
        look[n] = v / 100;
        void submit({ do: "set-mouth", puppet: puppet.id, mouth: mouth.id, look });
      }}
    />
  );
}
