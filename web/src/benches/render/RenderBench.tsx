/** Bench 6: make the film, and fetch it. */
import { useEffect, useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { captionsFile, turnRender } from "../../wire/http";
import type { RenderView } from "../../wire/types";
import { PanelHead } from "../../ui/bits";
import { shotsOf, tell, useProduction, useWorkshop, watch, type Bench, turnTo } from "../../session";
import { useOverview } from "../../parts/overview";
import { FrameStrip } from "./FrameStrip";
import { PapersCard } from "./PapersCard";
import { OrderCard } from "./OrderCard";
import { RenderRow } from "./RenderRow";
import { allOf, firstOf, isA } from "./what";

export function RenderBench({ go }: { go: (bench: Bench) => void }) {
  const production = useProduction()!;
  const documents = useWorkshop((w) => w.documents);
  const all = useWorkshop((w) => w.renders);
  const overview = useOverview();
  const things = useMemo(() => allOf(documents, overview), [documents, overview]);
  const [chosen, setChosen] = useState<string | null>(null);
  const waits = shotsOf({ documents }).length > 0 && !overview;
  const current = waits ? undefined : (things.find((w) => w.key === chosen) ?? firstOf(things));
  const [shown, setShown] = useState<string | null>(null);
  const motion = current?.order.motion;
  useEffect(() => {
    if (motion) {
      turnTo({ motion });
      watch({ kind: "motion", motion });
    }
  }, [motion]);
  const going = Object.values(all)
    .filter((r) => r.state === "waiting" || r.state === "running")
    .sort((a, b) => (a.place ?? 0) - (b.place ?? 0));
  const over = Object.values(all)
    .filter((r) => !going.includes(r))
    .sort((a, b) => b.at.localeCompare(a.at));
  const list = [...going, ...over];
  const seen = (format: unknown) => !isA("pictures", format);
  const player = all[shown ?? ""] ?? list.find((r) => r.ready && seen(r.settings.format));

  if (waits)
    return (
      <div className="stage-cell whole">
        <p className="faint m-3">Looking at the film…</p>
      </div>
    );
  if (!current)
    return (
      <div className="stage-cell whole">
        <div className="empty">
          <div className="card-sheet">
            <h2 className="h4">Nothing to render yet</h2>
            <p className="mb-3">A film is made of shots, or of a motion. Make one on the Motion bench first.</p>
            <Button onClick={() => go("motion")}>Go to the Motion bench</Button>
          </div>
        </div>
      </div>
    );
  return (
    <div className="render-grid">
      <div className="d-flex flex-column gap-2">
        <OrderCard
          key={current.key}
          things={things}
          current={current}
          choose={setChosen}
          ordered={(id) => setShown(id)}
        />
        <PapersCard
          key={`papers-${current.key}`}
          production={production.id}
          what={current}
          film={things[0]?.key === "film"}
        />
      </div>
      <div className="d-flex flex-column gap-2">
        <FrameStrip
          what={current}
          looks={Object.values(overview?.shots ?? {})
            .map((s) => s.picture)
            .join("")}
        />
        {player?.ready && seen(player.settings.format) && <Player render={player} production={production.id} />}
        <div className="card-sheet">
          <PanelHead title="Films made" />
          {!list.length && (
            <p className="faint p-3 mb-0">
              Nothing yet. What you render is listed here, with its progress, and stays until you remove it.
            </p>
          )}
          {list.map((r, n) => (
            <RenderRow
              key={r.id}
              render={r}
              production={production.id}
              chosen={player?.id === r.id}
              show={seen(r.settings.format) ? () => setShown(r.id) : undefined}
              turns={
                going.length > 1 && going.includes(r)
                  ? {
                      earlier: n > 0 ? going[n - 1]!.id : null,
                      put: (dragged, before) => void turnRender(production.id, dragged, before).catch(tell),
                      later: n < going.length - 1 ? (going[n + 2]?.id ?? null) : undefined,
                    }
                  : undefined
              }
            />
          ))}
        </div>
      </div>
    </div>
  );
}

function Player({ render, production }: { render: RenderView; production: string }) {
  const file = `/api/productions/${production}/renders/${render.id}/file`;
  const { format } = render.settings;
  const of = Object.entries(render.settings).filter(([name, v]) => v !== null && /^(motion|shot|first)$/.test(name));
  const said = captionsFile(production, Object.fromEntries(of.map(([name, v]) => [name, String(v)])));
  return (
    <div className="card-sheet p-2 text-center">
      {isA("loop", format) ? (
        <img key={render.id} src={file} alt={`Animation: ${render.title}`} className="mw-100" />
      ) : isA("sound", format) ? (
        <audio key={render.id} controls src={file} aria-label={`Sound: ${render.title}`} className="w-100">
          <track kind="captions" src={said} label="What is said" />
        </audio>
      ) : (
        <video key={render.id} controls loop src={file} aria-label={`Film: ${render.title}`}>
          <track kind="captions" src={said} label="What is said" />
        </video>
      )}
    </div>
  );
}
