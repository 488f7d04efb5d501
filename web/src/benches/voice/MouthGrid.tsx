/** The mouths of the set: put in by a click, a key or up and down; named, drawn and given their sounds here. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { DrawingThumb } from "../../parts/PieceSheet";
import { get, submit, useWorkshop, type Bench } from "../../session";
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
import { MouthDetails, SOUND } from "./MouthDetails";
import { NoChart } from "./NoChart";
import { SetMenu } from "./SetMenu";
import { MouthThumb } from "./thumbs";
import { px } from "../../ui/text";

const DRAWING = "text/sorvan-drawing";

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
  const spare = (puppet.pieces?.[chart.piece ?? ""]?.drawings ?? []).filter((d) => !used.has(d.number));
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
      <div className="mouth-grid" style={{ gridTemplateColumns: `repeat(auto-fill, minmax(${px(hand.size)}px, 1fr))` }}>
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
                aria-label={`Put in ${mouth.name}${n < 10 ? `, key ${DIGITS[n]}` : ""}`}
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
                onDragStart={(e) => e.dataTransfer.setData(DRAWING, String(d.number))}
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
