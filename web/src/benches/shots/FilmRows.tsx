/** The whole film on its frames: its shots one after the other, and what is heard across their cuts. */
import { useMemo, useRef } from "react";
import { frameRate, goTo, shotsOf, useWorkshop, type FilmPlan, type Laid } from "../../session";
import { Waveform } from "../../ribbon/Waveform";
import { Playhead, Ruler } from "../../sheet/Ruler";
import { NAMES, useTimeline, useZoomingWheel, type Timeline } from "../../sheet/timeline";
import { SpeedMenu, Transport, ZoomButtons } from "../../sheet/Transport";
import { Edge, useExtent } from "../../ui/Edge";
import { frameOf } from "../../wire/http";
import type { Document, FilmPart } from "../../wire/types";
import { openShot } from "./commands";
import { useOverview } from "../../parts/overview";
import { px } from "../../ui/text";

const SHOTS = px(78);
const SOUND = px(34);
/** Pixels across of a picture of a shot, and how many it has at most. */
const TILE = 122;
const MOST_TILES = 6;
const most = () => Math.round(window.innerHeight * 0.55);

export function FilmRows() {
  const scroller = useRef<HTMLDivElement>(null);
  const film = useWorkshop((w) => w.film);
  const documents = useWorkshop((w) => w.documents);
  const time = useTimeline(Math.max(1, film?.frames ?? 1), scroller, 0.02);
  const held = useExtent("height-film-rows", 250, 140, most);
  const rate = frameRate({ documents });
  useZoomingWheel(scroller, time);
  const heard = film?.heard;
  const rows = useMemo(() => soundRows(heard ?? [], documents), [heard, documents]);
  return (
    <section className="rows-cell" aria-label="Rows of the film">
      <Edge label="Height of the rows" held={held} />
      <div className="shot-rows card-sheet" style={{ height: held.size }}>
        <div className="sheet-bar">
          <Transport length={film?.frames ?? 0} />
          <SpeedMenu />
          <span className="flex-grow-1" />
          <ZoomButtons time={time} />
        </div>
        <div className="timing-body" ref={scroller} tabIndex={-1}>
          <div className="timing-window shot-window">
            <div className="ruler-row" style={{ height: px(22) }}>
              <div className="corner">frames of the film</div>
              <Ruler time={time} />
            </div>
            <div className="shot-row" style={{ height: SHOTS }}>
              <div className="row-head">
                <i className="bi bi-film" aria-hidden="true" />
                <span className="flex-grow-1 text-truncate">Shots</span>
              </div>
              <div className="lane">
                {film?.parts.map((part, n) => (
                  <FilmBlock key={part.shot} part={part} n={n} time={time} />
                ))}
              </div>
            </div>
            {rows.map((lines, n) => (
              <div key={n} className="shot-row sound" style={{ height: SOUND }}>
                <div className="row-head">
                  <i className="bi bi-volume-up" aria-hidden="true" />
                  <span className="flex-grow-1 text-truncate">Sound {n + 1}</span>
                </div>
                <div className="lane">
                  <Waveform lines={lines} chosen={null} time={time} rate={rate} height={SOUND} />
                  {lines.map((l) => (
                    <HeardBar key={l.placed.id} line={l} time={time} rate={rate} />
                  ))}
                </div>
              </div>
            ))}
            <Playhead time={time} top={0} />
          </div>
          <div className="track" style={{ width: NAMES + time.width }} />
        </div>
      </div>
    </section>
  );
}

/** A shot in the film: a press goes to where it begins, a second one opens it. */
function FilmBlock({ part, n, time }: { part: FilmPart; n: number; time: Timeline }) {
  const documents = useWorkshop((w) => w.documents);
  const production = useWorkshop((w) => w.id);
  const overview = useOverview();
  const shot = shotsOf({ documents }).find((s) => s.id === part.shot);
  const left = part.start * time.step - time.scroll;
  const width = part.frames * time.step;
  const looks = overview?.shots[part.shot]?.picture ?? "";
  const count = Math.max(1, Math.min(MOST_TILES, Math.ceil(width / TILE)));
  const tiles = Array.from({ length: count }, (_, n) => (n + 0.5) / count);
  if (!shot || left > time.room || left + width < 0) return null;
  return (
    <button
      type="button"
      className={`film-block ${shot.stage}`}
      style={{ left, width: Math.max(4, width - 1) }}
      title={`${shot.name}: frames ${part.start + 1} to ${part.start + part.frames} of the film; Enter or a double press opens it`}
      onClick={() => goTo(part.start)}
      onDoubleClick={() => openShot(part.shot)}
      onKeyDown={(e) => {
        if (e.key !== "Enter") return;
        e.preventDefault();
        e.stopPropagation();
        openShot(part.shot);
      }}
    >
      {tiles.map((at) => (
        <img
          key={at}
          src={frameOf(production, part.shot, part.first + Math.floor(at * part.frames) + 1, looks)}
          alt=""
          loading="lazy"
          style={{ left: (at - 0.5 / count) * width, width: Math.ceil(width / count) }}
        />
      ))}
      <span className="film-name" style={{ paddingLeft: part.over * time.step + 6 }}>
        {n + 1} · {shot.name}
      </span>
      {part.over > 0 && <span className="film-join" style={{ width: part.over * time.step }} title="dissolves" />}
      {part.fade_out > 0 && (
        <span className="film-join fade-out" style={{ width: part.fade_out * time.step }} title="fades out" />
      )}
      {part.fade_in > 0 && (
        <span className="film-join fade-in" style={{ width: part.fade_in * time.step }} title="fades in" />
      )}
    </button>
  );
}

function HeardBar({ line, time, rate }: { line: Laid; time: Timeline; rate: number }) {
  const [from, until] = spoken(line);
  const left = from * rate * time.step - time.scroll;
  const width = Math.max(6, (until - from) * rate * time.step);
  if (left > time.room || left + width < 0) return null;
  return (
    <div className="sound-bar still" style={{ left, width }} title={line.voice.name}>
      <span>{line.voice.name}</span>
    </div>
  );
}

const spoken = ({ placed: { at }, voice }: Laid): [number, number] => [at, at + (voice.sound?.seconds ?? 0)];

/** What is heard, on as few rows as keep it apart. */
function soundRows(heard: FilmPlan["heard"], documents: Record<string, Document>): Laid[][] {
  const voices = Object.values(documents).flatMap((d) => (d.kind === "voice" && d.sound ? [d] : []));
  const rows: Laid[][] = [];
  for (const [n, h] of [...heard].sort((a, b) => a.at - b.at).entries()) {
    const voice = voices.find((v) => v.sound!.asset === h.asset);
    if (!voice) continue;
    const line: Laid = { placed: { id: String(n), at: h.at, mute: false }, voice };
    const free = rows.find((row) => spoken(row.at(-1)!)[1] <= h.at);
    if (free) free.push(line);
    else rows.push([line]);
  }
  return rows;
}
