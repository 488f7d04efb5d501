/** The mouths of the set: put in by a click, a key or up and down; named, drawn and given their sounds here. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { DrawingThumb } from "../../parts/PieceSheet";
import { get, useWorkshop, type Bench } from "../../session";
import { Menu } from "../../ui/Menu";
import { useCarried } from "../../ui/Carrying";
import type { Drawing, Exposed, Motion, MouthChart, Puppet } from "../../wire/types";
import { keepHand, keptHand, makeMouths, moodAt, mouthNow, PLAIN, setMood, type Hand } from "./commands";
import { MouthCard, SHOWN } from "./MouthCard";
import { MouthDetails } from "./MouthDetails";
import { NoChart } from "./NoChart";
import { SetMenu } from "./SetMenu";
import { StandIns } from "./StandIns";
import { px } from "../../ui/text";

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
  useWorkshop((w) => (w.playing ? -1 : w.frame));
  useWorkshop((w) => w.documents);
  const setHand = (part: Partial<Hand>) => {
    const next = { ...hand, ...part };
    keepHand(next);
    setHandNow(next);
  };
  const waits = useWorkshop((w) => w.mouthsWait !== null && w.mouthsWait === w.line);
  const frame = get().frame;
  const here = moodAt(exposed, frame);
  const [mood, setShown] = useState<string | null>(null);
  const seen = mood ?? here;
  const mouths = Object.values(chart.mouths ?? {});
  const now = mouthNow(chart);
  const letters = Object.entries(exposed?.letters ?? {});
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
        <Button
          size="sm"
          variant={waits ? "outline-primary" : "primary"}
          disabled={!motion}
          title={waits ? "The mouths are made as soon as the sounds of the line are found" : undefined}
          onClick={() => void makeMouths()}
        >
          {waits ? "They follow: leave it" : "Make mouths"}
        </Button>
      </div>
      <div className="mouth-grid" style={{ gridTemplateColumns: `repeat(auto-fill, minmax(${px(hand.size)}px, 1fr))` }}>
        {mouths.map((mouth, n) => (
          <MouthCard
            key={mouth.id}
            puppet={puppet}
            chart={chart}
            mouth={mouth}
            n={n}
            mood={seen}
            size={hand.size}
            sounds={exposed?.sounds[mouth.id] ?? []}
            letters={letters.filter(([, id]) => id === mouth.id).map(([k]) => k)}
            here={now?.id === mouth.id}
            opened={open === mouth.id}
            open={() => setOpen(open === mouth.id ? null : mouth.id)}
          />
        ))}
      </div>
      {spare.length > 0 && (
        <div className="spare" aria-label="Drawings that no mouth has">
          <span className="faint small">Drawings that no mouth has: drag one onto a mouth.</span>
          <div className="d-flex flex-wrap gap-1">
            {spare.map((d) => (
              <Spare key={d.id} drawing={d} />
            ))}
          </div>
        </div>
      )}
      {chosen && (
        <MouthDetails key={chosen.id} puppet={puppet} chart={chart} mouth={chosen} mood={seen} exposed={exposed} />
      )}
      <StandIns puppet={puppet} chart={chart} mood={seen} missing={exposed?.missing ?? {}} />
    </section>
  );
}

/** A drawing that no mouth has, to be carried onto one. */
function Spare({ drawing }: { drawing: Drawing }) {
  const carrying = useCarried({ kind: SHOWN, id: String(drawing.number), name: drawing.name });
  return (
    <div className="drawing-card" {...carrying}>
      <DrawingThumb drawing={drawing} width={44} height={30} />
    </div>
  );
}
