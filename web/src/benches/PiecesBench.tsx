/** Bench 1: turn artwork into parts that can move. */
import { useEffect, useMemo, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useShallow } from "zustand/react/shallow";
import type { Piece, Puppet, Side } from "../api/types";
import { IconButton, NumberField, PanelHead } from "../parts/bits";
import { useImport } from "../parts/ImportArt";
import { PieceSheet } from "../parts/PieceSheet";
import { AskName, PuppetPicker } from "../parts/PuppetPicker";
import { corners, sceneAt, usePuppetBox } from "../stage/scene";
import { Stage } from "../stage/Stage";
import { PlaceTool, swing } from "../stage/tools/place";
import { useShortcuts, type Shortcut } from "../state/shortcuts";
import { freshId, get, set, submit, usePuppet, useWorkshop, watch, type Bench } from "../state/workshop";

const nudge = (dx: number, dy: number) => {
  const { puppet, pieces } = get();
  if (puppet && pieces.length) void submit({ do: "shift-pieces", puppet, pieces, dx, dy });
};

const remove = () => {
  const { puppet, pieces } = get();
  if (puppet && pieces.length) void submit({ do: "remove-pieces", puppet, pieces });
};

export const mirror = () => {
  const { puppet, pieces } = get();
  if (!puppet || !pieces.length) return;
  const ids = Object.fromEntries(pieces.map((p) => [p, freshId()]));
  void submit({ do: "mirror-pieces", puppet, ids }).then((done) => done && set({ pieces: Object.values(ids) }));
};

const step = (puppet: Puppet | undefined, forward: boolean) => {
  const { pieces } = get();
  const order = puppet?.order ?? [];
  const at = order.indexOf(pieces[0] ?? "");
  if (!puppet || at < 0) return;
  const in_front_of = forward ? order[at + 1] : (order[at - 2] ?? null);
  if (in_front_of !== undefined) void submit({ do: "order-pieces", puppet: puppet.id, pieces: [pieces[0]!], in_front_of });
};

export function PiecesBench({ go }: { go: (bench: Bench) => void }) {
  const puppet = usePuppet();
  const { pieces, isolated } = useWorkshop(useShallow((w) => ({ pieces: w.pieces, isolated: w.isolated })));
  const { bring, choose, parts } = useImport();
  const [over, setOver] = useState(false);
  const [naming, setNaming] = useState(false);
  const tool = useMemo(() => new PlaceTool(), []);
  const puppetId = puppet?.id;

  useEffect(() => {
    if (puppetId) watch({ puppet: puppetId, motion: null, blocking: false });
  }, [puppetId]);

  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: ["ArrowLeft"], does: "Move one unit left (Shift: ten)", run: () => nudge(-1, 0) },
      { keys: ["ArrowRight"], does: "Move one unit right", run: () => nudge(1, 0) },
      { keys: ["ArrowUp"], does: "Move one unit up", run: () => nudge(0, -1) },
      { keys: ["ArrowDown"], does: "Move one unit down", run: () => nudge(0, 1) },
      { keys: ["Shift+ArrowLeft"], run: () => nudge(-10, 0) },
      { keys: ["Shift+ArrowRight"], run: () => nudge(10, 0) },
      { keys: ["Shift+ArrowUp"], run: () => nudge(0, -10) },
      { keys: ["Shift+ArrowDown"], run: () => nudge(0, 10) },
      { keys: ["t"], does: "Try the turn of the selected piece", run: () => get().pieces[0] && swing(get().pieces[0]!) },
      { keys: ["m"], does: "Make the other side, mirrored", run: mirror },
      { keys: ["Shift+PageUp"], does: "One step to the front", run: () => step(puppet, true) },
      { keys: ["Shift+PageDown"], does: "One step to the back", run: () => step(puppet, false) },
      { keys: ["i"], does: "Show the selected pieces alone", run: () => set({ isolated: !get().isolated && get().pieces.length > 0 }) },
      { keys: ["Delete", "Backspace"], does: "Remove the selected pieces", run: remove },
      { keys: ["Ctrl+a"], does: "Select all pieces", run: () => set({ pieces: [...(puppet?.order ?? [])] }) },
      { keys: ["Escape"], does: "Select nothing", run: () => set({ pieces: [], isolated: false, pose: null }) },
    ],
    [puppet],
  );
  useShortcuts(shortcuts);

  const focus = usePuppetBox(puppet);
  const empty = !puppet || !Object.keys(puppet.pieces ?? {}).length;
  return (
    <>
      <aside className="left" aria-label="Pieces">
        <PuppetPicker />
        <div className="card-sheet d-flex flex-column flex-grow-1" style={{ minHeight: 0 }}>
          <PanelHead title="Pieces">
            <IconButton icon="plus-lg" label="Bring in SVG drawings or PNG and WebP pictures" text="Art" onClick={choose} />
          </PanelHead>
          {puppet && <PieceSheet puppet={puppet} />}
        </div>
      </aside>
      <section
        className="stage-cell"
        aria-label="Stage"
        onDragOver={(e) => {
          if (e.dataTransfer.types.includes("Files")) {
            e.preventDefault();
            setOver(true);
          }
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          bring([...e.dataTransfer.files]);
        }}
      >
        <div className="stage-bar">
          <IconButton icon="symmetry-vertical" label="Make the other side, mirrored" keys="m" text="Other side" disabled={!pieces.length} onClick={mirror} />
          <IconButton icon="arrow-repeat" label="Try the turn: it comes back by itself" keys="t" text="Try the turn" disabled={pieces.length !== 1} onClick={() => swing(pieces[0]!)} />
          <IconButton icon="layer-forward" label="One step to the front" keys="Shift+PageUp" disabled={pieces.length !== 1} onClick={() => step(puppet, true)} />
          <IconButton icon="layer-backward" label="One step to the back" keys="Shift+PageDown" disabled={pieces.length !== 1} onClick={() => step(puppet, false)} />
          <IconButton icon="collection" label="Group the selected pieces" disabled={!pieces.length} onClick={() => setNaming(true)} />
          <IconButton icon="box-arrow-up-right" label="Take the selected pieces out of their group" disabled={!pieces.some((id) => puppet?.pieces?.[id]?.group)} onClick={() => puppet && void submit({ do: "group-pieces", puppet: puppet.id, pieces, group: null, name: "Group" })} />
          <IconButton icon="zoom-in" label={isolated ? "Show all pieces again" : "Show the selected pieces alone"} keys="i" pressed={isolated} disabled={!pieces.length} onClick={() => set({ isolated: !isolated })} />
          <IconButton icon="trash" label="Remove the selected pieces" keys="Delete" disabled={!pieces.length} onClick={remove} />
          <span className="flex-grow-1" />
          {!empty && (
            <Button size="sm" onClick={() => go("rig")}>
              Link them on the Rig bench <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
            </Button>
          )}
        </div>
        <Stage tool={tool} focus={focus} label="Stage with loose pieces: drag to move, drag a pin to set the pivot" overlay={(to) => puppet && <Handles puppet={puppet} to={to} />}>
          {over && <div className="drop-veil">Drop SVG, PNG or WebP files here</div>}
          {empty && (
            <div className="empty">
              <div className="card-sheet">
                <h2 className="h4">Bring in your art</h2>
                <p className="mb-3">Drop an SVG on the stage: every named group becomes a piece. Or drop PNG or WebP pictures, one for each piece.</p>
                <Button onClick={choose}>Choose files…</Button>
              </div>
            </div>
          )}
        </Stage>
      </section>
      <aside className="right" aria-label="Details">
        {puppet && pieces.length === 1 && puppet.pieces?.[pieces[0]!] ? <PieceDetails puppet={puppet} piece={puppet.pieces[pieces[0]!]!} /> : <Hints count={pieces.length} puppet={puppet} />}
      </aside>
      {parts}
      {naming && puppet && <AskName title="Group pieces" start="" close={() => setNaming(false)} done={(name) => void submit({ do: "group-pieces", puppet: puppet.id, pieces, group: freshId(), name })} />}
    </>
  );
}

function Hints({ count, puppet }: { count: number; puppet: Puppet | undefined }) {
  return (
    <div className="card-sheet">
      <h2 className="heading mb-2">{count > 1 ? `${count} pieces selected` : "Loose pieces"}</h2>
      {count > 1 && puppet ? (
        <SidePicker puppet={puppet} ids={get().pieces} side={undefined} />
      ) : (
        <>
          <p className="hint mt-0">On this bench pieces lie loose, as on a table: moving one moves only it and its pin.</p>
          <p className="hint">Click picks what you see under the pointer. Click again to reach what lies behind.</p>
          <p className="hint">Drag the round pin of a selected piece to where it should turn; it swings once to show you.</p>
        </>
      )}
    </div>
  );
}

function SidePicker({ puppet, ids, side }: { puppet: Puppet; ids: string[]; side: Side | undefined }) {
  return (
    <div className="btn-group btn-group-sm w-100" role="group" aria-label="Side">
      {(["left", "centre", "right"] as const).map((s) => (
        <button key={s} type="button" className={`btn ${side === s ? "btn-primary" : "btn-outline-primary"}`} aria-pressed={side === s} onClick={() => void submit({ do: "set-pieces", puppet: puppet.id, pieces: ids, side: s })}>
          {s}
        </button>
      ))}
    </div>
  );
}

function PieceDetails({ puppet, piece }: { puppet: Puppet; piece: Piece }) {
  const place = useWorkshop((w) => (w.pose?.places ?? w.plan?.places)?.[piece.id]);
  const [name, setName] = useState<string | null>(null);
  const commit = () => {
    if (name?.trim() && name.trim() !== piece.name) void submit({ do: "set-pieces", puppet: puppet.id, pieces: [piece.id], name: name.trim() });
    setName(null);
  };
  const put = (change: Partial<Record<"x" | "y" | "angle" | "sx" | "sy", number>>) => {
    if (!place) return;
    const [x, y, angle, , sx, sy] = place;
    void submit({ do: "place-piece", puppet: puppet.id, piece: piece.id, x, y, angle, sx, sy, ...change });
  };
  return (
    <>
      <div className="card-sheet">
        <label htmlFor="piece-name" className="faint small">
          Name
        </label>
        <Form.Control id="piece-name" size="sm" className="mb-2" value={name ?? piece.name} maxLength={120} onChange={(e) => setName(e.target.value)} onBlur={commit} onKeyDown={(e) => e.key === "Enter" && commit()} />
        <SidePicker puppet={puppet} ids={[piece.id]} side={piece.side} />
      </div>
      {place && (
        <div className="card-sheet">
          <h2 className="heading mb-2">Place of the pin</h2>
          <div className="fields">
            <label htmlFor="piece-x">Across</label>
            <NumberField id="piece-x" value={place[0]} unit="u" onCommit={(x) => put({ x })} />
            <label htmlFor="piece-y">Down</label>
            <NumberField id="piece-y" value={place[1]} unit="u" onCommit={(y) => put({ y })} />
            <label htmlFor="piece-angle">Turn</label>
            <NumberField id="piece-angle" value={place[2]} unit="°" onCommit={(angle) => put({ angle })} />
            <label htmlFor="piece-sx">Width</label>
            <NumberField id="piece-sx" value={place[4] * 100} unit="%" onCommit={(v) => put({ sx: v / 100 })} />
            <label htmlFor="piece-sy">Height</label>
            <NumberField id="piece-sy" value={place[5] * 100} unit="%" onCommit={(v) => put({ sy: v / 100 })} />
          </div>
          <p className="hint">u: stage units, counted from the stage's top left corner.</p>
        </div>
      )}
    </>
  );
}

function Handles({ puppet, to }: { puppet: Puppet; to: (p: [number, number]) => [number, number] }) {
  const { plan, pose, pieces, frame } = useWorkshop(useShallow((w) => ({ plan: w.plan, pose: w.pose, pieces: w.pieces, frame: w.frame })));
  const scene = sceneAt(plan, pose, frame);
  if (!scene || plan?.watch.puppet !== puppet.id) return null;
  const places = pose?.places ?? plan?.places ?? {};
  const swinging = pose !== null && Object.keys(pose.tried).length > 0;
  return (
    <>
      {!swinging &&
        (puppet.order ?? []).map((id) => {
          const place = places[id];
          if (!place || pieces.includes(id) || puppet.pieces?.[id]?.hidden) return null;
          const [x, y] = to([place[0], place[1]]);
          return <circle key={id} cx={x} cy={y} r={2.6} fill="#fffdf8" stroke="#23364d" strokeWidth={1} opacity={0.8} />;
        })}
      {pieces.map((id) => {
        const around = corners(scene, puppet, id)?.map(to);
        const place = places[id];
        if (!around || !place) return null;
        const [px, py] = to([place[0], place[1]]);
        const d = `M${around.map((p) => p.join(" ")).join("L")}Z`;
        const [tl, tr, br, bl] = around as [[number, number], [number, number], [number, number], [number, number]];
        const top: [number, number] = [(tl[0] + tr[0]) / 2, (tl[1] + tr[1]) / 2];
        const middle: [number, number] = [(tl[0] + br[0]) / 2, (tl[1] + br[1]) / 2];
        const away = Math.hypot(top[0] - middle[0], top[1] - middle[1]) || 1;
        const knob: [number, number] = [top[0] + ((top[0] - middle[0]) / away) * 24, top[1] + ((top[1] - middle[1]) / away) * 24];
        const single = pieces.length === 1 && !swinging;
        return (
          <g key={id} className="chosen">
            <path className="halo" d={d} />
            <path className="outline" d={d} strokeDasharray="7 3" />
            {single && (
              <>
                <line x1={top[0]} y1={top[1]} x2={knob[0]} y2={knob[1]} stroke="#6a3fb5" strokeWidth={1.4} />
                <path data-handle={`turn:${id}`} style={{ cursor: "grab" }} pointerEvents="all" transform={`translate(${knob[0]} ${knob[1]})`} d="M0-7A7 7 0 1 1 0 7A7 7 0 1 1 0-7Z" fill="#fff" stroke="#6a3fb5" strokeWidth={2} />
                <path transform={`translate(${knob[0]} ${knob[1]})`} d="M-3 1A3.2 3.2 0 1 1 2 2.4" fill="none" stroke="#6a3fb5" strokeWidth={1.5} pointerEvents="none" />
                {[tl, tr, br, bl].map((c, i) => (
                  <path key={i} data-handle={`scale:${id}`} style={{ cursor: "nwse-resize" }} pointerEvents="all" transform={`translate(${c[0]} ${c[1]})`} d="M0-6L6 0L0 6L-6 0Z" fill="#fff" stroke="#6a3fb5" strokeWidth={1.8} />
                ))}
                <g data-handle={`pin:${id}`} style={{ cursor: "move" }} pointerEvents="all" transform={`translate(${px} ${py})`}>
                  <circle r={11} fill="#fff" fillOpacity={0.01} />
                  <circle className="pin-dot" r={6.5} />
                  <path d="M-10 0H-4M4 0H10M0-10V-4M0 4V10" stroke="#6a3fb5" strokeWidth={1.6} />
                </g>
              </>
            )}
          </g>
        );
      })}
    </>
  );
}
