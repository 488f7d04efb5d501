/** Bench 6: make the film, and fetch it. */
import { useEffect, useMemo, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { captionsFile, orderRender, turnRender } from "../../wire/http";
import type { RenderOrder, RenderView } from "../../wire/types";
import { PanelHead } from "../../ui/bits";
import { NumberField, SwitchRow } from "../../ui/fields";
import { get, set, tell, useProduction, useWorkshop, watch, type Bench } from "../../session";
import { useOverview } from "../shots/overview";
import { FrameStrip } from "./FrameStrip";
import { PapersCard } from "./PapersCard";
import { RenderRow } from "./RenderRow";
import { allOf, firstOf, FORMATS, isFilm, isMoving, type What } from "./what";

const SIZES = [
  ["Draft", 0.5],
  ["Full", 1],
  ["One and a half", 1.5],
  ["Double", 2],
] as const;

const BLURS = [
  [1, "none"],
  [4, "4 pictures a frame"],
  [8, "8 pictures a frame"],
  [16, "16 pictures a frame"],
] as const;

export function RenderBench({ go }: { go: (bench: Bench) => void }) {
  const production = useProduction()!;
  const documents = useWorkshop((w) => w.documents);
  const all = useWorkshop((w) => w.renders);
  const overview = useOverview();
  const things = useMemo(() => allOf(documents, overview), [documents, overview]);
  const [chosen, setChosen] = useState<string | null>(null);
  const current = things.find((w) => w.key === chosen) ?? firstOf(things);
  const [shown, setShown] = useState<string | null>(null);
  const motion = current?.order.motion;
  useEffect(() => {
    if (motion) {
      set({ motion });
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
  const seen = (format: unknown) => isFilm(format) || isMoving(format) || format === "wav";
  const player = all[shown ?? ""] ?? list.find((r) => r.ready && seen(r.settings.format));

  if (!current)
    return (
      <div className="stage-cell" style={{ gridColumn: "1 / 4", gridRow: "2 / 4" }}>
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
    <div className="render-grid" style={{ gridColumn: "1 / 4" }}>
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
      {isMoving(format) ? (
        <img key={render.id} src={file} alt={`Animation: ${render.title}`} className="mw-100" />
      ) : format === "wav" ? (
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

function OrderCard({
  things,
  current,
  choose,
  ordered,
}: {
  things: What[];
  current: What;
  choose: (key: string) => void;
  ordered: (id: string) => void;
}) {
  const production = useProduction()!;
  const [format, setFormat] = useState<NonNullable<RenderOrder["format"]>>("mp4");
  const [range, setRange] = useState<[number, number] | null>(null);
  const [width, setWidth] = useState<number | null>(null);
  const [clear, setClear] = useState(false);
  const [sound, setSound] = useState(true);
  const [blur, setBlur] = useState(1);
  const [seenAs, setSeenAs] = useState<RenderOrder["seen_as"]>(null);
  const wide = width ?? production.width ?? 1280;
  const high = Math.round((wide * (production.height ?? 720)) / (production.width ?? 1280));
  const [first, last] = range ?? [current.first, current.last];
  const rate = (production.rate?.numerator ?? 24) / (production.rate?.denominator ?? 1);
  const seconds = (last - first + 1) / rate;
  const kind = FORMATS.find((f) => f.id === format)!;
  const groups = ["", "Shots", "Motions"] as const;
  const start = () => {
    const order: RenderOrder = {
      ...current.order,
      format,
      // All of it, however long that is by now, unless a part was asked for.
      ...(range ? { first, last } : {}),
      width: wide,
      clear: clear && (kind.clear ?? false),
      sound,
      blur,
      seen_as: current.order.motion ? null : seenAs,
    };
    orderRender(production.id, order).then((made) => {
      ordered(made.id);
      if (!get().renders[made.id]) set({ renders: { ...get().renders, [made.id]: made } });
    }, tell);
  };
  const option = (w: What) => (
    <option key={w.key} value={w.key}>
      {w.name}
    </option>
  );
  return (
    <div className="card-sheet">
      <PanelHead title="Make a film" />
      <div className="p-3 fields">
        <label htmlFor="r-what">Of</label>
        <Form.Select id="r-what" size="sm" value={current.key} onChange={(e) => choose(e.target.value)}>
          {groups.map((group) => {
            const own = things.filter((w) => w.group === group);
            if (!own.length) return null;
            return group ? (
              <optgroup key={group} label={group}>
                {own.map(option)}
              </optgroup>
            ) : (
              own.map(option)
            );
          })}
        </Form.Select>
        <label htmlFor="r-format">As</label>
        <Form.Select
          id="r-format"
          size="sm"
          value={format}
          onChange={(e) => setFormat(e.target.value as NonNullable<RenderOrder["format"]>)}
        >
          {FORMATS.map((f) => (
            <option key={f.id} value={f.id}>
              {f.name}
            </option>
          ))}
        </Form.Select>
        <label htmlFor="r-first">From frame</label>
        <NumberField
          id="r-first"
          value={first}
          unit=""
          digits={0}
          min={1}
          max={last}
          onCommit={(v) => setRange([Math.round(v), last])}
        />
        <label htmlFor="r-last">To frame</label>
        <NumberField
          id="r-last"
          value={last}
          unit=""
          digits={0}
          min={first}
          max={current.length}
          onCommit={(v) => setRange([first, Math.round(v)])}
        />
        {format !== "wav" && (
          <>
            <label htmlFor="r-size">Size</label>
            <Form.Select
              id="r-size"
              size="sm"
              value={SIZES.find(([, k]) => Math.round((production.width ?? 1280) * k) === wide)?.[0] ?? ""}
              onChange={(e) =>
                setWidth(Math.round((production.width ?? 1280) * SIZES.find(([n]) => n === e.target.value)![1]))
              }
            >
              {!SIZES.some(([, k]) => Math.round((production.width ?? 1280) * k) === wide) && (
                <option value="">Own size</option>
              )}
              {SIZES.map(([name, k]) => (
                <option key={name} value={name}>
                  {name}: {Math.round((production.width ?? 1280) * k)} × {Math.round((production.height ?? 720) * k)}
                </option>
              ))}
            </Form.Select>
            <label htmlFor="r-width">Width</label>
            <NumberField
              id="r-width"
              value={wide}
              unit="px"
              digits={0}
              min={16}
              max={8192}
              onCommit={(v) => setWidth(Math.round(v))}
            />
            <label htmlFor="r-blur">Motion blur</label>
            <Form.Select id="r-blur" size="sm" value={blur} onChange={(e) => setBlur(Number(e.target.value))}>
              {BLURS.map(([n, name]) => (
                <option key={n} value={n}>
                  {name}
                </option>
              ))}
            </Form.Select>
            {!current.order.motion && (
              <>
                <label htmlFor="r-pass">Pass</label>
                <Form.Select
                  id="r-pass"
                  size="sm"
                  value={seenAs ?? ""}
                  onChange={(e) => setSeenAs((e.target.value || null) as RenderOrder["seen_as"])}
                >
                  <option value="">each shot&apos;s own</option>
                  <option value="blocking">Blocking</option>
                  <option value="breakdown">Breakdown</option>
                  <option value="final">Final</option>
                </Form.Select>
              </>
            )}
          </>
        )}
        {kind.sound && format !== "wav" && current.heard && (
          <SwitchRow id="r-sound" label="Sound" text="what is heard" checked={sound} onChange={setSound} />
        )}
        {kind.clear && (
          <>
            <label htmlFor="r-clear">Clear</label>
            <Form.Check
              id="r-clear"
              type="switch"
              label="no paper, no backdrop"
              checked={clear}
              onChange={(e) => setClear(e.target.checked)}
            />
          </>
        )}
      </div>
      <div className="px-3 pb-3">
        <p className="hint mt-0">
          {last - first + 1} frames at {Number(rate.toFixed(3))} a second: {seconds.toFixed(2)} s
          {format !== "wav" && `, ${wide} × ${high} px`}.
        </p>
        <Button className="w-100" onClick={start}>
          <i className="bi bi-film me-2" aria-hidden="true" />
          Render
        </Button>
      </div>
    </div>
  );
}
