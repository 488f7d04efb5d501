/** Bench 1: turn artwork into parts that can move. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import { useShallow } from "zustand/react/shallow";
import type { Piece, Point, Puppet, Side } from "../wire/types";
import { IconButton, PanelHead } from "../ui/bits";
import { NumberField } from "../ui/fields";
import { DrawingsCard, GatherCard, shownDrawing } from "../parts/DrawingsCard";
import { Fold } from "../ui/Fold";
import { useImport } from "../parts/ImportArt";
import { ColourCard, MaskCard, Palette, SwatchLinks } from "../parts/LooksCard";
import { PieceSheet } from "../parts/PieceSheet";
import { addPuppet, AskName, PuppetPicker } from "../parts/PuppetPicker";
import { ReferenceCard } from "../parts/ReferenceCard";
import { ShapeCard, type ShapePaint } from "../parts/ShapeCard";
import { painter } from "../stage/painter";
import { corners, pieceMatrix, sceneAt, sceneNow, usePuppetBox } from "../stage/scene";
import { drawReference, Stage } from "../stage/Stage";
import type { Tool } from "../stage/tool";
import { drawTool, type DrawTool, type Ink, type ShapeKind } from "../stage/tools/draw";
import { placeTool, swing } from "../stage/tools/place";
import { pointsTool } from "../stage/tools/points";
import { useShortcuts, type Shortcut } from "../ui/shortcuts";
import { type Bench, freshId, get, puppetOf, putBack, set, submit, usePuppet, useWorkshop, watch } from "../session";

type Mode = "place" | "points" | ShapeKind;

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
  void submit({ do: "mirror-pieces", puppet, ids, share: true }).then(
    (done) => done && set({ pieces: Object.values(ids) }),
  );
};

const step = (puppet: Puppet | undefined, forward: boolean) => {
  const { pieces } = get();
  const order = puppet?.order ?? [];
  const at = order.indexOf(pieces[0] ?? "");
  if (!puppet || at < 0) return;
  const in_front_of = forward ? order[at + 1] : (order[at - 2] ?? null);
  if (in_front_of !== undefined)
    void submit({ do: "order-pieces", puppet: puppet.id, pieces: [pieces[0]!], in_front_of });
};

const SHAPES: { kind: ShapeKind; icon: string; label: string; keys: string }[] = [
  { kind: "rectangle", icon: "square", label: "Rectangle: drag from corner to corner (Shift: a square)", keys: "r" },
  { kind: "ellipse", icon: "circle", label: "Ellipse: drag (Shift: a circle)", keys: "e" },
  { kind: "polygon", icon: "pentagon", label: "Polygon: click corners, then the first one again", keys: "p" },
  { kind: "freehand", icon: "pencil", label: "Freehand outline: draw round and back to the start", keys: "f" },
];

/** Take a colour from the stage, the picture under the work included, into a new swatch. */
async function pickColour(at: Point): Promise<void> {
  const p = await painter();
  const puppet = puppetOf(get());
  const scene = sceneNow();
  const colour = p.colourAt(at[0], at[1], (c) => {
    if (puppet?.reference && !puppet.reference.hidden)
      drawReference(p, c, { ...puppet.reference, opacity: 1 }, get().frame, () => undefined);
    if (scene) p.draw(c, scene.frame);
  });
  if (colour) await submit({ do: "set-swatch", swatch: { id: freshId(), name: colour, colour: `${colour}ff` } });
}

const dropper: Tool = {
  begin(hand) {
    void pickColour(hand.at);
    return null;
  },
};

export function PiecesBench({ go }: { go: (bench: Bench) => void }) {
  const puppet = usePuppet();
  const { pieces, isolated } = useWorkshop(useShallow((w) => ({ pieces: w.pieces, isolated: w.isolated })));
  const { drop, choose, chooseFolder, parts } = useImport();
  const [over, setOver] = useState(false);
  const [naming, setNaming] = useState(false);
  const [mode, setMode] = useState<Mode>("place");
  const [picking, setPicking] = useState(false);
  const [paint, setPaint] = useState<ShapePaint>({ fill: "#c9a36aff", stroke: "#23364dff", width: 3 });
  const [smoothing, setSmoothing] = useState(2);
  const [corner, setCorner] = useState<{ point: number | null; at: Point | null }>({ point: null, at: null });
  const [line, setLine] = useState<Point[]>([]);
  const puppetId = puppet?.id;
  const drawing = mode !== "place" && mode !== "points";

  const to = useCallback((next: Mode) => {
    putBack();
    setCorner({ point: null, at: null });
    setPicking(false);
    setMode(next);
  }, []);

  const ink = useRef<Ink>({ fill: null, stroke: null, width: 3, smoothing });
  useEffect(() => {
    ink.current = { fill: paint.fill ?? null, stroke: paint.stroke ?? null, width: paint.width ?? 3, smoothing };
  }, [paint, smoothing]);
  // The corners of an open polygon belong to the tool: choosing another colour keeps it.
  const drawer = useMemo<DrawTool | null>(() => {
    if (mode === "place" || mode === "points") return null;
    const puppet = async () => get().puppet ?? (await addPuppet("Puppet"));
    return drawTool({ kind: mode, ink: () => ink.current, show: (points) => setLine([...points]), puppet });
  }, [mode]);
  const tool = useMemo<Tool>(() => {
    if (picking) return dropper;
    if (mode === "points") return pointsTool((point, at) => setCorner({ point, at }));
    return drawer ?? placeTool();
  }, [mode, picking, drawer]);

  useEffect(() => {
    if (puppetId) watch({ kind: "rest", puppet: puppetId });
  }, [puppetId]);

  const editPoint = useCallback(
    (edit: "remove" | "corner" | "smooth") => {
      const { puppet, pieces } = get();
      if (puppet && pieces[0] && corner.point !== null)
        void submit({ do: "edit-shape", puppet, piece: pieces[0], edit, point: corner.point }).then(
          () => edit === "remove" && setCorner({ point: null, at: null }),
        );
    },
    [corner],
  );

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
      { keys: ["v"], does: "Place pieces", run: () => to("place") },
      ...SHAPES.map((s) => ({ keys: [s.keys], does: `Draw: ${s.kind}`, run: () => to(s.kind) })),
      { keys: ["o"], does: "Edit the points of a drawn shape", run: () => to("points") },
      { keys: ["c"], does: "Make the selected point a corner", run: () => editPoint("corner") },
      { keys: ["s"], does: "Make the selected point smooth", run: () => editPoint("smooth") },
      {
        keys: ["t"],
        does: "Try the turn of the selected piece",
        run: () => get().pieces[0] && swing(get().pieces[0]!),
      },
      { keys: ["m"], does: "Make the other side, mirrored", run: mirror },
      { keys: ["Shift+PageUp"], does: "One step to the front", run: () => step(puppet, true) },
      { keys: ["Shift+PageDown"], does: "One step to the back", run: () => step(puppet, false) },
      {
        keys: ["i"],
        does: "Show the selected pieces alone",
        run: () => set({ isolated: !get().isolated && get().pieces.length > 0 }),
      },
      {
        keys: ["Delete", "Backspace"],
        does: "Remove the selected point or pieces",
        run: () => (corner.point !== null ? editPoint("remove") : remove()),
      },
      { keys: ["Ctrl+a"], does: "Select all pieces", run: () => set({ pieces: [...(puppet?.order ?? [])] }) },
      { keys: ["Enter"], does: "End an open polygon", run: () => drawer?.finish() },
      {
        keys: ["Escape"],
        does: "Leave the tool, or select nothing",
        run: () => {
          drawer?.drop();
          if (mode !== "place" || picking) to("place");
          else set({ pieces: [], isolated: false, pose: null });
        },
      },
    ],
    [puppet, drawer, mode, picking, to, corner, editPoint],
  );
  useShortcuts(shortcuts);

  const focus = usePuppetBox(puppet);
  const empty = !puppet || !Object.keys(puppet.pieces ?? {}).length;
  const single = puppet && pieces.length === 1 ? puppet.pieces?.[pieces[0]!] : undefined;
  const shape = single && shownDrawing(single).shape;
  return (
    <>
      <aside className="left" aria-label="Pieces">
        <PuppetPicker />
        <div className="card-sheet d-flex flex-column flex-grow-1" style={{ minHeight: 0 }}>
          <PanelHead title="Pieces">
            <Dropdown align="end">
              <Dropdown.Toggle
                variant="link"
                size="sm"
                className="icon-btn text-decoration-none"
                aria-label="Bring in art"
              >
                <i className="bi bi-plus-lg" aria-hidden="true" /> Art
              </Dropdown.Toggle>
              <Dropdown.Menu>
                <Dropdown.Item onClick={() => choose()}>Files: SVG, OpenRaster, PNG, WebP…</Dropdown.Item>
                <Dropdown.Item onClick={chooseFolder}>A folder of pictures…</Dropdown.Item>
                <Dropdown.Divider />
                <Dropdown.Item disabled={empty} onClick={() => choose({ purpose: "new-version" })}>
                  New version of a file…
                </Dropdown.Item>
                <Dropdown.Item disabled={!puppet} onClick={() => choose({ purpose: "reference" })}>
                  Reference picture…
                </Dropdown.Item>
              </Dropdown.Menu>
            </Dropdown>
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
          if (e.dataTransfer.types.includes("Files")) drop(e.dataTransfer);
        }}
      >
        <div className="stage-bar">
          <IconButton
            icon="hand-index"
            label="Place pieces: drag to move"
            keys="v"
            pressed={mode === "place" && !picking}
            onClick={() => to("place")}
          />
          {SHAPES.map((s) => (
            <IconButton
              key={s.kind}
              icon={s.icon}
              label={s.label}
              keys={s.keys}
              pressed={mode === s.kind}
              onClick={() => to(s.kind)}
            />
          ))}
          <IconButton
            icon="bounding-box-circles"
            label="Edit the points of a shape drawn here: drag them, click the line to add one"
            keys="o"
            pressed={mode === "points"}
            onClick={() => to("points")}
          />
          <span className="divider" />
          <IconButton
            icon="symmetry-vertical"
            label="Make the other side, mirrored"
            keys="m"
            text="Other side"
            disabled={!pieces.length}
            onClick={mirror}
          />
          <IconButton
            icon="arrow-repeat"
            label="Try the turn: it comes back by itself"
            keys="t"
            disabled={pieces.length !== 1}
            onClick={() => swing(pieces[0]!)}
          />
          <IconButton
            icon="layer-forward"
            label="One step to the front"
            keys="Shift+PageUp"
            disabled={pieces.length !== 1}
            onClick={() => step(puppet, true)}
          />
          <IconButton
            icon="layer-backward"
            label="One step to the back"
            keys="Shift+PageDown"
            disabled={pieces.length !== 1}
            onClick={() => step(puppet, false)}
          />
          <IconButton
            icon="collection"
            label="Group the selected pieces"
            disabled={!pieces.length}
            onClick={() => setNaming(true)}
          />
          <IconButton
            icon="box-arrow-up-right"
            label="Take the selected pieces out of their group"
            disabled={!pieces.some((id) => puppet?.pieces?.[id]?.group)}
            onClick={() =>
              puppet && void submit({ do: "group-pieces", puppet: puppet.id, pieces, group: null, name: "Group" })
            }
          />
          <IconButton
            icon="zoom-in"
            label={isolated ? "Show all pieces again" : "Show the selected pieces alone"}
            keys="i"
            pressed={isolated}
            disabled={!pieces.length}
            onClick={() => set({ isolated: !isolated })}
          />
          <IconButton
            icon="trash"
            label="Remove the selected pieces"
            keys="Delete"
            disabled={!pieces.length}
            onClick={remove}
          />
          <span className="flex-grow-1" />
          {!empty && (
            <Button size="sm" onClick={() => go("rig")}>
              Rig <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
            </Button>
          )}
        </div>
        <Stage
          tool={tool}
          focus={focus}
          label="Stage with loose pieces: drag to move, drag a pin to set the pivot"
          overlay={(at) => (
            <>
              {puppet && mode === "place" && !picking && <Handles puppet={puppet} to={at} />}
              {puppet && mode === "points" && single && (
                <ShapePoints puppet={puppet} piece={single} to={at} corner={corner} />
              )}
              {line.length > 0 && (
                <>
                  <path d={`M${line.map((p) => at(p).join(" ")).join("L")}`} className="halo" />
                  <path d={`M${line.map((p) => at(p).join(" ")).join("L")}`} className="outline" />
                  {mode === "polygon" &&
                    line.map((p, i) => (
                      <circle
                        key={i}
                        cx={at(p)[0]}
                        cy={at(p)[1]}
                        r={i ? 3.5 : 6}
                        fill="#fff"
                        stroke="#6a3fb5"
                        strokeWidth={2}
                      />
                    ))}
                </>
              )}
            </>
          )}
        >
          {over && (
            <div className="drop-veil">Drop SVG, OpenRaster, PNG or WebP files here, or a folder of pictures</div>
          )}
          {picking && (
            <div className="ribbon" style={{ paddingRight: "0.8rem" }}>
              Click a colour: it becomes a swatch
            </div>
          )}
          {empty && !drawing && (
            <div className="empty">
              <div className="card-sheet">
                <h2 className="h4">Bring in your art</h2>
                <p className="mb-3">
                  Drop an SVG or OpenRaster file on the stage: every named group or layer becomes a piece. Or drop PNG
                  or WebP pictures, one for each piece. Or draw simple shapes with the tools above.
                </p>
                <Button onClick={() => choose()}>Choose files…</Button>
              </div>
            </div>
          )}
        </Stage>
      </section>
      <aside className="right" aria-label="Details">
        {single && puppet ? (
          <>
            <PieceDetails puppet={puppet} piece={single} />
            {shape && (
              <ShapeCard
                title="Shape"
                paint={shape}
                change={(p) =>
                  void submit({
                    do: "edit-shape",
                    puppet: puppet.id,
                    piece: single.id,
                    edit: "paint",
                    fill: p.fill,
                    stroke: p.stroke,
                    width: p.width,
                  })
                }
              >
                {mode === "points" ? (
                  <div className="d-flex gap-1 mt-2">
                    <Button
                      size="sm"
                      variant="outline-primary"
                      disabled={corner.point === null}
                      onClick={() => editPoint("corner")}
                    >
                      Corner
                    </Button>
                    <Button
                      size="sm"
                      variant="outline-primary"
                      disabled={corner.point === null}
                      onClick={() => editPoint("smooth")}
                    >
                      Smooth
                    </Button>
                    <IconButton
                      quiet
                      icon="trash"
                      label="Remove the selected point"
                      disabled={corner.point === null}
                      onClick={() => editPoint("remove")}
                    />
                  </div>
                ) : (
                  <Button size="sm" variant="outline-primary" className="mt-2" onClick={() => to("points")}>
                    Edit its points
                  </Button>
                )}
              </ShapeCard>
            )}
            <DrawingsCard
              puppet={puppet}
              piece={single}
              add={() => choose({ purpose: "drawings", target: single.id })}
            />
            <MaskCard puppet={puppet} ids={[single.id]} />
            <SwatchLinks puppet={puppet} piece={single} />
            <ColourCard puppet={puppet} ids={[single.id]} />
          </>
        ) : (
          <>
            <Hints count={pieces.length} puppet={puppet} />
            {puppet && pieces.length > 1 && <GatherCard key={pieces.join()} puppet={puppet} ids={pieces} />}
            {puppet && pieces.length > 1 && <MaskCard puppet={puppet} ids={pieces} />}
            {puppet && pieces.length > 1 && <ColourCard puppet={puppet} ids={pieces} />}
          </>
        )}
        {drawing && (
          <ShapeCard title="Next shape" paint={paint} change={setPaint}>
            {mode === "freehand" && (
              <div className="fields mt-1">
                <label htmlFor="smoothing">Smoothing</label>
                <NumberField id="smoothing" value={smoothing} unit="u" min={0.1} max={100} onCommit={setSmoothing} />
              </div>
            )}
          </ShapeCard>
        )}
        {puppet && !single && <Palette picking={picking} pick={() => setPicking(!picking)} />}
        {puppet && !single && <ReferenceCard puppet={puppet} choose={() => choose({ purpose: "reference" })} />}
      </aside>
      {parts}
      {naming && puppet && (
        <AskName
          title="Group pieces"
          start=""
          close={() => setNaming(false)}
          done={(name) => void submit({ do: "group-pieces", puppet: puppet.id, pieces, group: freshId(), name })}
        />
      )}
    </>
  );
}

/** The points of a shape drawn here, and its line to click for another. */
function ShapePoints({
  puppet,
  piece,
  to,
  corner,
}: {
  puppet: Puppet;
  piece: Piece;
  to: (p: Point) => Point;
  corner: { point: number | null; at: Point | null };
}) {
  const { plan, pose } = useWorkshop(useShallow((w) => ({ plan: w.plan, pose: w.pose })));
  const [outline, setOutline] = useState("");
  const scene = sceneAt(plan, pose, 0);
  const drawn = scene?.items.find((i) => i.piece === piece.id);
  const art = drawn?.arts[drawn.rest];
  useEffect(() => {
    // A drawing left behind by the drag can arrive after the one that replaced it.
    let wanted = true;
    if (art)
      void painter().then((p) =>
        p.prepare([{ arts: [art] }]).then(() => {
          if (wanted) setOutline(p.outlineOf(art));
        }),
      );
    return () => {
      wanted = false;
    };
  }, [art]);
  const m = scene && pieceMatrix(scene, piece.id);
  const shape = shownDrawing(piece).shape;
  if (!m || !shape || plan?.puppet !== puppet.id) return null;
  const [o, x, y] = [to([0, 0]), to([1, 0]), to([0, 1])];
  const view = `matrix(${x[0] - o[0]} ${x[1] - o[1]} ${y[0] - o[0]} ${y[1] - o[1]} ${o[0]} ${o[1]})`;
  return (
    <>
      <g transform={`${view} matrix(${[...m].join(" ")})`}>
        <path
          d={outline}
          data-handle="edge:"
          fill="none"
          stroke="#fff"
          strokeOpacity={0.01}
          strokeWidth={16}
          vectorEffect="non-scaling-stroke"
          pointerEvents="stroke"
          style={{ cursor: "copy" }}
        />
        <path
          d={outline}
          fill="none"
          stroke="#fff"
          strokeWidth={3.5}
          vectorEffect="non-scaling-stroke"
          pointerEvents="none"
        />
        <path
          d={outline}
          fill="none"
          stroke="#6a3fb5"
          strokeWidth={1.6}
          vectorEffect="non-scaling-stroke"
          pointerEvents="none"
        />
      </g>
      {shape.points.map((p, i) => {
        const on = corner.point === i;
        const [px, py] = to(
          on && corner.at ? corner.at : [m[0]! * p.x + m[2]! * p.y + m[4]!, m[1]! * p.x + m[3]! * p.y + m[5]!],
        );
        return (
          <g key={i} data-handle={`point:${i}`} pointerEvents="all" style={{ cursor: "move" }}>
            <circle cx={px} cy={py} r={10} fillOpacity={0.01} />
            {p.smooth ? (
              <circle cx={px} cy={py} r={5} fill={on ? "#6a3fb5" : "#fff"} stroke="#6a3fb5" strokeWidth={2} />
            ) : (
              <rect
                x={px - 4.5}
                y={py - 4.5}
                width={9}
                height={9}
                fill={on ? "#6a3fb5" : "#fff"}
                stroke="#6a3fb5"
                strokeWidth={2}
              />
            )}
          </g>
        );
      })}
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
          <p className="hint mt-0">
            On this bench pieces lie loose, as on a table: moving one moves only it and its pin.
          </p>
          <p className="hint">Click picks what you see under the pointer. Click again to reach what lies behind.</p>
          <p className="hint">
            Drag the round pin of a selected piece to where it should turn; it swings once to show you.
          </p>
        </>
      )}
    </div>
  );
}

function SidePicker({ puppet, ids, side }: { puppet: Puppet; ids: string[]; side: Side | undefined }) {
  return (
    <div className="btn-group btn-group-sm w-100" role="group" aria-label="Side">
      {(["left", "centre", "right"] as const).map((s) => (
        <button
          key={s}
          type="button"
          className={`btn ${side === s ? "btn-primary" : "btn-outline-primary"}`}
          aria-pressed={side === s}
          onClick={() => void submit({ do: "set-pieces", puppet: puppet.id, pieces: ids, side: s })}
        >
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
    if (name?.trim() && name.trim() !== piece.name)
      void submit({ do: "set-pieces", puppet: puppet.id, pieces: [piece.id], name: name.trim() });
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
        <Form.Control
          id="piece-name"
          size="sm"
          className="mb-2"
          value={name ?? piece.name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          onBlur={commit}
          onKeyDown={(e) => e.key === "Enter" && commit()}
        />
        <SidePicker puppet={puppet} ids={[piece.id]} side={piece.side} />
      </div>
      {place && (
        <Fold title="Place of the pin">
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
        </Fold>
      )}
    </>
  );
}

function Handles({ puppet, to }: { puppet: Puppet; to: (p: [number, number]) => [number, number] }) {
  const { plan, pose, pieces, frame } = useWorkshop(
    useShallow((w) => ({ plan: w.plan, pose: w.pose, pieces: w.pieces, frame: w.frame })),
  );
  const scene = sceneAt(plan, pose, frame);
  if (!scene || plan?.puppet !== puppet.id) return null;
  const places = pose?.places ?? plan?.places ?? {};
  const swinging = pose !== null && Object.keys(pose.tried).length > 0;
  return (
    <>
      {!swinging &&
        (puppet.order ?? []).map((id) => {
          const place = places[id];
          if (!place || pieces.includes(id) || puppet.pieces?.[id]?.hidden) return null;
          const [x, y] = to([place[0], place[1]]);
          return (
            <circle key={id} cx={x} cy={y} r={2.6} fill="#fffdf8" stroke="#23364d" strokeWidth={1} opacity={0.8} />
          );
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
        const knob: [number, number] = [
          top[0] + ((top[0] - middle[0]) / away) * 24,
          top[1] + ((top[1] - middle[1]) / away) * 24,
        ];
        const single = pieces.length === 1 && !swinging;
        return (
          <g key={id} className="chosen">
            <path className="halo" d={d} />
            <path className="outline" d={d} strokeDasharray="7 3" />
            {single && (
              <>
                <line x1={top[0]} y1={top[1]} x2={knob[0]} y2={knob[1]} stroke="#6a3fb5" strokeWidth={1.4} />
                <path
                  data-handle={`turn:${id}`}
                  style={{ cursor: "grab" }}
                  pointerEvents="all"
                  transform={`translate(${knob[0]} ${knob[1]})`}
                  d="M0-7A7 7 0 1 1 0 7A7 7 0 1 1 0-7Z"
                  fill="#fff"
                  stroke="#6a3fb5"
                  strokeWidth={2}
                />
                <path
                  transform={`translate(${knob[0]} ${knob[1]})`}
                  d="M-3 1A3.2 3.2 0 1 1 2 2.4"
                  fill="none"
                  stroke="#6a3fb5"
                  strokeWidth={1.5}
                  pointerEvents="none"
                />
                {[tl, tr, br, bl].map((c, i) => (
                  <path
                    key={i}
                    data-handle={`scale:${id}`}
                    style={{ cursor: "nwse-resize" }}
                    pointerEvents="all"
                    transform={`translate(${c[0]} ${c[1]})`}
                    d="M0-6L6 0L0 6L-6 0Z"
                    fill="#fff"
                    stroke="#6a3fb5"
                    strokeWidth={1.8}
                  />
                ))}
                <g
                  data-handle={`pin:${id}`}
                  style={{ cursor: "move" }}
                  pointerEvents="all"
                  transform={`translate(${px} ${py})`}
                >
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
