/** Bench 1: turn artwork into parts that can move. */
import { FILL, LINE } from "../../ui/paints";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { DrawingsCard, GatherCard, JoinCard, SplitCard } from "../../parts/DrawingsCard";
import { useImport } from "../../parts/ImportArt";
import { ColourCard, MaskCard, Palette, SwatchLinks } from "../../parts/LooksCard";
import { PieceSheet } from "../../parts/PieceSheet";
import { addPuppet, PuppetPicker } from "../../parts/PuppetPicker";
import { AskName } from "../../ui/AskName";
import { ReferenceCard } from "../../parts/ReferenceCard";
import { ShapeCard, type ShapePaint } from "../../parts/ShapeCard";
import { type Bench, freshId, get, putBack, submit, usePuppet, useSize, useWorkshop, watch } from "../../session";
import { usePuppetBox } from "../../stage/scene";
import { Stage } from "../../stage/Stage";
import type { Tool } from "../../stage/tool";
import { drawTool, type DrawTool, type Ink } from "../../stage/tools/draw";
import { placeTool } from "../../stage/tools/place";
import { pointsTool } from "../../stage/tools/points";
import { PanelHead } from "../../ui/bits";
import { NumberField } from "../../ui/fields";
import { Menu } from "../../ui/Menu";
import type { Point } from "../../wire/types";
import { Bar } from "./Bar";
import { dropper, type Mode, shaping, touching } from "./commands";
import { type PointEdit, usePiecesKeys } from "./keys";
import { Axis, DrawnLine, Handles, ShapePoints } from "./overlays";
import { Hints, OtherSide, PieceDetails, ShapePanel } from "./panels";
import { useTouchingUp } from "./touchingUp";

export function PiecesBench({ go }: { go: (bench: Bench) => void }) {
  const puppet = usePuppet();
  const [, height] = useSize();
  const pieces = useWorkshop((w) => w.pieces);
  const { drop, choose, chooseFolder, parts: choosing } = useImport();
  const [over, setOver] = useState(false);
  const [naming, setNaming] = useState(false);
  const [mode, setMode] = useState<Mode>("place");
  const [picking, setPicking] = useState(false);
  const [paint, setPaint] = useState<ShapePaint>({ fill: FILL, stroke: LINE, width: 3 });
  const [smoothing, setSmoothing] = useState(2);
  const [corner, setCorner] = useState<{ point: number | null; at: Point | null }>({ point: null, at: null });
  const [line, setLine] = useState<Point[]>([]);
  const puppetId = puppet?.id;
  const drawing = shaping(mode) !== null;
  const way = touching(mode);
  const single = puppet && pieces.length === 1 ? puppet.pieces?.[pieces[0]!] : undefined;
  const touchingUp = useTouchingUp(puppet, single, way);

  const to = useCallback((next: Mode) => {
    putBack();
    setCorner({ point: null, at: null });
    setPicking(false);
    setMode(next);
  }, []);

  const ink = useRef<Ink>({ fill: null, stroke: null, width: 3, smoothing });
  useEffect(() => {
    ink.current = { fill: paint.fill ?? null, stroke: paint.stroke ?? null, width: paint.width, smoothing };
  }, [paint, smoothing]);
  // The corners of an open polygon belong to the tool: choosing another colour keeps it.
  const drawer = useMemo<DrawTool | null>(() => {
    const kind = shaping(mode);
    if (!kind) return null;
    const puppet = async () => get().puppet ?? (await addPuppet("Puppet"));
    return drawTool({ kind, ink: () => ink.current, show: (points) => setLine([...points]), puppet });
  }, [mode]);
  const tool = useMemo<Tool>(() => {
    if (picking) return dropper;
    if (mode === "points") return pointsTool((point, at) => setCorner({ point, at }));
    return touchingUp.tool ?? drawer ?? placeTool();
  }, [mode, picking, touchingUp.tool, drawer]);

  useEffect(() => {
    if (puppetId) watch({ kind: "rest", puppet: puppetId });
  }, [puppetId]);

  const editPoint = useCallback(
    (edit: PointEdit) => {
      const { puppet, pieces } = get();
      if (puppet && pieces[0] && corner.point !== null)
        void submit({ do: "edit-shape", puppet, piece: pieces[0], edit, point: corner.point }).then(
          () => edit === "remove" && setCorner({ point: null, at: null }),
        );
    },
    [corner],
  );

  const choosePoint = useCallback((point: number | null) => setCorner({ point, at: null }), []);
  const held = useMemo(() => ({ corner: corner.point, part: touchingUp.part }), [corner.point, touchingUp.part]);
  usePiecesKeys({ puppet, drawer, leave: mode !== "place" || picking, to, held, editPoint });

  const focus = usePuppetBox(puppet);
  const reading = useWorkshop((w) => w.importing !== null);
  const empty = !puppet || !Object.keys(puppet.pieces ?? {}).length;
  return (
    <>
      <aside className="left" aria-label="Pieces">
        <PuppetPicker />
        <div className="card-sheet d-flex flex-column flex-grow-1 shrinks">
          <PanelHead title="Pieces">
            <Menu
              align="end"
              label="Bring in art"
              entries={[
                { text: "Files: SVG, OpenRaster, PNG, JPEG, WebP…", run: () => choose() },
                { text: "A folder of pictures…", run: chooseFolder },
                { text: "A drawing, part by part…", run: () => choose({ pick: true }) },
                "line",
                { text: "New version of a file…", disabled: empty, run: () => choose({ purpose: "new-version" }) },
                { text: "Reference picture…", disabled: !puppet, run: () => choose({ purpose: "reference" }) },
              ]}
            >
              <i className="bi bi-plus-lg" aria-hidden="true" /> Art
            </Menu>
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
        <Bar
          puppet={puppet}
          mode={mode}
          picking={picking}
          to={to}
          group={() => setNaming(true)}
          next={empty ? null : () => go("rig")}
        />
        <Stage
          tool={tool}
          focus={focus}
          label="Stage with loose pieces: drag to move, drag a pin to set the pivot"
          overlay={(at) => (
            <>
              {puppet && mode === "place" && !picking && (
                <>
                  <Handles puppet={puppet} to={at} />
                  {pieces.length > 0 && <Axis puppet={puppet} to={at} top={focus?.[1] ?? 0} height={height} />}
                </>
              )}
              {puppet && mode === "points" && single && (
                <ShapePoints puppet={puppet} piece={single} to={at} corner={corner} />
              )}
              {touchingUp.overlay(at)}
              <DrawnLine points={line} corners={mode === "polygon"} to={at} />
            </>
          )}
        >
          {over && (
            <div className="drop-veil">Drop SVG, OpenRaster, PNG, JPEG or WebP files here, or a folder of pictures</div>
          )}
          {picking && <div className="ribbon even">Click a colour: it becomes a swatch</div>}
          {empty && !drawing && !reading && (
            <div className="empty">
              <div className="card-sheet">
                <h2 className="h4">Bring in your art</h2>
                <p className="mb-3">
                  Drop an SVG or OpenRaster file on the stage: every named group or layer becomes a piece. Or drop PNG,
                  JPEG or WebP pictures, one for each piece. Or draw simple shapes with the tools above.
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
            {way && touchingUp.card}
            <PieceDetails puppet={puppet} piece={single} />
            <ShapePanel
              puppet={puppet}
              piece={single}
              editing={mode === "points"}
              corner={corner.point}
              choose={choosePoint}
              edit={editPoint}
              open={() => to("points")}
            />
            <DrawingsCard
              puppet={puppet}
              piece={single}
              add={() => choose({ purpose: "drawings", target: single.id })}
            />
            {!way && touchingUp.card}
            <OtherSide puppet={puppet} />
            <SplitCard piece={single} />
            <MaskCard puppet={puppet} ids={[single.id]} />
            <SwatchLinks puppet={puppet} ids={[single.id]} />
            <ColourCard puppet={puppet} ids={[single.id]} />
          </>
        ) : (
          <>
            <Hints count={pieces.length} puppet={puppet} />
            {puppet && pieces.length > 1 && <OtherSide puppet={puppet} />}
            {puppet && pieces.length > 1 && <GatherCard key={pieces.join()} puppet={puppet} ids={pieces} />}
            {puppet && pieces.length > 1 && <JoinCard key={`join ${pieces.join()}`} puppet={puppet} ids={pieces} />}
            {puppet && pieces.length > 1 && <MaskCard puppet={puppet} ids={pieces} />}
            {puppet && pieces.length > 1 && <SwatchLinks puppet={puppet} ids={pieces} />}
            {puppet && pieces.length > 1 && <ColourCard puppet={puppet} ids={pieces} />}
          </>
        )}
        {drawing && (
          <ShapeCard
            title="Next shape"
            paint={paint}
            change={(given) => setPaint((before) => ({ ...before, ...given }))}
          >
            {mode === "freehand" && (
              <div className="fields mt-1">
                <label htmlFor="smoothing">Smoothing</label>
                <NumberField
                  id="smoothing"
                  of="DrawShape.smoothing"
                  value={smoothing}
                  unit="u"
                  onCommit={setSmoothing}
                />
              </div>
            )}
          </ShapeCard>
        )}
        {puppet && !single && <Palette picking={picking} pick={() => setPicking(!picking)} />}
        {puppet && !single && <ReferenceCard puppet={puppet} choose={() => choose({ purpose: "reference" })} />}
      </aside>
      {choosing}
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
