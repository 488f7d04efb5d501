/** Bench 5: make the film, and fetch it. */
import { useEffect, useMemo, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { captionsFile, orderRender } from "../../wire/http";
import type { RenderOrder } from "../../wire/types";
import { PanelHead } from "../../ui/bits";
import { NumberField, SwitchRow } from "../../ui/fields";
import { allPuppets, get, motionsOf, set, tell, useProduction, useWorkshop, watch, type Bench } from "../../session";
import { FrameStrip } from "./FrameStrip";
import { RenderRow } from "./RenderRow";

const SIZES = [
  ["Draft", 0.5],
  ["Full", 1],
  ["One and a half", 1.5],
  ["Double", 2],
] as const;

export function RenderBench({ go }: { go: (bench: Bench) => void }) {
  const production = useProduction()!;
  const documents = useWorkshop((w) => w.documents);
  const chosen = useWorkshop((w) => w.motion);
  const all = useWorkshop((w) => w.renders);
  const motions = useMemo(
    () => allPuppets(documents).flatMap((p) => motionsOf(documents, p.id).map((m) => ({ motion: m, puppet: p }))),
    [documents],
  );
  const current = motions.find((m) => m.motion.id === chosen) ?? motions[0];
  const length = current?.motion.length ?? 1;
  const [format, setFormat] = useState<RenderOrder["format"]>("mp4");
  const [range, setRange] = useState<[number, number] | null>(null);
  const [width, setWidth] = useState<number | null>(null);
  const [clear, setClear] = useState(false);
  const [sound, setSound] = useState(true);
  const [shown, setShown] = useState<string | null>(null);
  const wide = width ?? production.width ?? 1280;
  const high = Math.round((wide * (production.height ?? 720)) / (production.width ?? 1280));
  const [first, last] = range ?? [1, length];
  const rate = (production.rate?.numerator ?? 24) / (production.rate?.denominator ?? 1);
  const seconds = (last - first + 1) / rate;

  const [puppetId, motionId] = [current?.puppet.id, current?.motion.id];
  useEffect(() => {
    if (puppetId && motionId) watch({ kind: "motion", motion: motionId });
  }, [puppetId, motionId]);

  const start = () => {
    if (!current) return;
    const order: RenderOrder = {
      motion: current.motion.id,
      format,
      first,
      last,
      width: wide,
      clear: clear && format === "png",
      sound,
    };
    orderRender(production.id, order).then((made) => {
      setShown(made.id);
      if (!get().renders[made.id]) set({ renders: { ...get().renders, [made.id]: made } });
    }, tell);
  };
  const list = Object.values(all).sort((a, b) => b.at.localeCompare(a.at));
  const player = all[shown ?? ""] ?? list.find((r) => r.ready);

  if (!current)
    return (
      <div className="stage-cell" style={{ gridColumn: "1 / 4", gridRow: "2 / 4" }}>
        <div className="empty">
          <div className="card-sheet">
            <h2 className="h4">Nothing to render yet</h2>
            <p className="mb-3">A film is made of a motion. Make one on the Motion bench first.</p>
            <Button onClick={() => go("motion")}>Go to the Motion bench</Button>
          </div>
        </div>
      </div>
    );
  return (
    <div className="render-grid" style={{ gridColumn: "1 / 4" }}>
      <div className="d-flex flex-column gap-2">
        <div className="card-sheet">
          <PanelHead title="Make a film" />
          <div className="p-3 fields">
            <label htmlFor="r-motion">Motion</label>
            <Form.Select
              id="r-motion"
              size="sm"
              value={current.motion.id}
              onChange={(e) => (
                set({ motion: e.target.value, puppet: motions.find((m) => m.motion.id === e.target.value)!.puppet.id }),
                setRange(null)
              )}
            >
              {motions.map(({ motion, puppet }) => (
                <option key={motion.id} value={motion.id}>
                  {puppet.name}: {motion.name}
                </option>
              ))}
            </Form.Select>
            <label htmlFor="r-format">As</label>
            <Form.Select
              id="r-format"
              size="sm"
              value={format}
              onChange={(e) => setFormat(e.target.value as RenderOrder["format"])}
            >
              <option value="mp4">MP4 film (H.264)</option>
              <option value="png">PNG sequence (ZIP)</option>
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
              max={length}
              onCommit={(v) => setRange([first, Math.round(v)])}
            />
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
            {format === "mp4" && Object.keys(current.motion.sounds ?? {}).length > 0 && (
              <SwitchRow
                id="r-sound"
                label="Sound"
                text="what is heard on the motion"
                checked={sound}
                onChange={setSound}
              />
            )}
            {format === "png" && (
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
              {last - first + 1} frames at {Number(rate.toFixed(3))} a second: {seconds.toFixed(2)} s, {wide} × {high}{" "}
              px.
            </p>
            <Button className="w-100" onClick={start}>
              <i className="bi bi-film me-2" aria-hidden="true" />
              Render
            </Button>
          </div>
        </div>
      </div>
      <div className="d-flex flex-column gap-2">
        <FrameStrip first={first} last={last} />
        {player?.ready && player.settings.format === "mp4" && (
          <div className="card-sheet p-2">
            <video
              key={player.id}
              controls
              loop
              src={`/api/productions/${production.id}/renders/${player.id}/file`}
              aria-label={`Film: ${player.title}`}
            >
              <track
                kind="captions"
                src={captionsFile(production.id, String(player.settings.motion), Number(player.settings.first ?? 1))}
                label="What is said"
              />
            </video>
          </div>
        )}
        <div className="card-sheet">
          <PanelHead title="Films made" />
          {!list.length && (
            <p className="faint p-3 mb-0">
              Nothing yet. What you render is listed here, with its progress, and stays until you remove it.
            </p>
          )}
          {list.map((r) => (
            <RenderRow
              key={r.id}
              render={r}
              production={production.id}
              chosen={player?.id === r.id}
              show={() => setShown(r.id)}
            />
          ))}
        </div>
      </div>
    </div>
  );
}
