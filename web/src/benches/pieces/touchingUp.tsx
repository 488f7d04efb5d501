/** Touching up what the selected piece shows, on the stage and beside it. */
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { copyDrawing, shownDrawing } from "../../parts/shownDrawing";
import { type Pen, PenFields, TouchUpCard, useParts } from "../../parts/TouchUpCard";
import type { Tool } from "../../stage/tool";
import { touchTool, type Touching } from "../../stage/tools/touch";
import { LINE } from "../../ui/paints";
import type { Piece, Point, Puppet } from "../../wire/types";
import { partAt } from "./commands";
import { PartBox, Stroke } from "./overlays";

interface TouchingUp {
  /** What the hand does, if it touches up. */
  tool: Tool | null;
  /** The part that the arrows move. */
  part: number | null;
  overlay: (to: (p: Point) => Point) => ReactNode;
  card: ReactNode;
}

export function useTouchingUp(puppet: Puppet | undefined, piece: Piece | undefined, way: Touching | null): TouchingUp {
  const [pen, setPen] = useState<Pen>({ eraser: 16, brush: 4, colour: LINE });
  const [line, setLine] = useState<Point[]>([]);
  const [row, setRow] = useState<string | null>(null);
  const [carried, setCarried] = useState<Point | null>(null);
  const [looking, setLooking] = useState(false);
  const { parts, untold, touch } = useParts(puppet, piece, looking || !!way);
  const part = parts.find((p) => row === `part ${p.part}`);
  const shown = piece && shownDrawing(piece);
  const shownId = shown?.id;
  useEffect(() => setRow(null), [shownId]);

  const take = (at: Point): number | null => {
    const found = piece ? partAt(piece.id, parts, part, at) : undefined;
    if (found) setRow(`part ${found.part}`);
    return found?.part ?? null;
  };
  // What the tool asks while it is in hand: a stroke that is begun goes on when these change.
  const now = useRef({ pen, touch, take });
  useEffect(() => {
    now.current = { pen, touch, take };
  });
  const tool = useMemo<Tool | null>(
    () =>
      way &&
      touchTool({
        way,
        pen: () => ({ width: now.current.pen[way === "eraser" ? "eraser" : "brush"], colour: now.current.pen.colour }),
        show: setLine,
        part: (at) => now.current.take(at),
        carry: setCarried,
        touch: (given) => now.current.touch(given),
      }),
    [way],
  );
  return {
    tool,
    part: way && part ? part.part : null,
    overlay: (to) => (
      <>
        {puppet && piece && part && (
          <PartBox puppet={puppet} piece={piece} box={part.box} by={carried ?? [0, 0]} to={to} />
        )}
        {way && <Stroke points={line} way={way} pen={pen} to={to} />}
      </>
    ),
    card: puppet && piece && shown && (
      <TouchUpCard
        drawing={shown}
        copy={() => copyDrawing(puppet, piece)}
        parts={parts}
        untold={untold}
        chosen={row}
        choose={setRow}
        touch={touch}
        inHand={!!way}
        look={setLooking}
      >
        {way && way !== "parts" && <PenFields way={way} pen={pen} change={setPen} />}
      </TouchUpCard>
    ),
  };
}
