/** The pieces as a contact sheet, front at the top: select, reorder, rename, hide and lock. */
import { useEffect, useState } from "react";
import type { Piece, Puppet } from "../api/types";
import { painter } from "../stage/painter";
import { set, submit, useWorkshop } from "../state/workshop";
import { IconButton, Painted, SideMark } from "./bits";

const [W, H] = [68, 52];

export function PieceSheet({ puppet }: { puppet: Puppet }) {
  const chosen = useWorkshop((w) => w.pieces);
  const [drop, setDrop] = useState<string | null>(null);
  const front = [...(puppet.order ?? [])].reverse();
  const groups = puppet.groups ?? {};
  const path = (id: string | null | undefined): string => {
    const group = id ? groups[id] : undefined;
    return group ? [path(group.parent), group.name].filter(Boolean).join(" / ") : "";
  };
  const select = (id: string, event: React.MouseEvent) => {
    if (event.ctrlKey || event.metaKey) set({ pieces: chosen.includes(id) ? chosen.filter((p) => p !== id) : [...chosen, id] });
    else if (event.shiftKey && chosen.length) {
      const [a, b] = [front.indexOf(chosen[chosen.length - 1]!), front.indexOf(id)].sort((x, y) => x - y) as [number, number];
      set({ pieces: [...new Set([...chosen, ...front.slice(a, b + 1)])] });
    } else set({ pieces: [id] });
  };
  const dropped = (event: React.DragEvent, over: string) => {
    setDrop(null);
    const moving = event.dataTransfer.getData("text/sorvan-pieces");
    if (!moving) return;
    event.preventDefault();
    void submit({ do: "order-pieces", puppet: puppet.id, pieces: moving.split(","), in_front_of: over });
  };
  return (
    <div className="list" role="listbox" aria-label="Pieces, front first" aria-multiselectable="true">
      {front.map((id, i) => {
        const piece = puppet.pieces![id]!;
        const group = path(piece.group);
        const caption = group && group !== path(puppet.pieces![front[i - 1] ?? ""]?.group) ? group : null;
        return (
          <div key={id}>
            {caption && <div className="faint small px-2 pt-2 pb-1 text-truncate">{caption}</div>}
            <div
              role="option"
              aria-selected={chosen.includes(id)}
              tabIndex={0}
              draggable
              className={`row-item${chosen.includes(id) ? " chosen" : ""}${piece.hidden ? " dimmed" : ""}${drop === id ? " drop-above" : ""}`}
              onClick={(e) => select(id, e)}
              onKeyDown={(e) => e.key === "Enter" && set({ pieces: [id] })}
              onDragStart={(e) => e.dataTransfer.setData("text/sorvan-pieces", chosen.includes(id) ? chosen.join(",") : id)}
              onDragOver={(e) => {
                if (e.dataTransfer.types.includes("text/sorvan-pieces")) {
                  e.preventDefault();
                  setDrop(id);
                }
              }}
              onDragLeave={() => setDrop(null)}
              onDrop={(e) => dropped(e, id)}
            >
              <Thumb piece={piece} />
              <span className="name" title={piece.name}>
                {piece.name}
              </span>
              <SideMark side={piece.side} />
              <IconButton quiet icon={piece.hidden ? "eye-slash" : "eye"} label={piece.hidden ? `Show ${piece.name}` : `Hide ${piece.name}`} onClick={(e) => (e.stopPropagation(), void submit({ do: "set-pieces", puppet: puppet.id, pieces: [id], hidden: !piece.hidden }))} />
              <IconButton quiet icon={piece.locked ? "lock-fill" : "unlock"} label={piece.locked ? `Unlock ${piece.name}` : `Lock ${piece.name}`} onClick={(e) => (e.stopPropagation(), void submit({ do: "set-pieces", puppet: puppet.id, pieces: [id], locked: !piece.locked }))} />
            </div>
          </div>
        );
      })}
    </div>
  );
}

function Thumb({ piece }: { piece: Piece }) {
  const drawing = piece.drawings[0]!;
  const [ready, setReady] = useState(false);
  const item = { puppet: "", piece: piece.id, art: drawing.art, hidden: false };
  useEffect(() => {
    void painter().then((p) => p.prepare([{ puppet: "", piece: "", art: drawing.art, hidden: false }]).then(() => setReady(true), () => undefined));
  }, [drawing.art]);
  return (
    <Painted
      width={W}
      height={H}
      className="thumb"
      watch={[drawing.art, ready]}
      paint={(p) => {
        const [l, t, r, b] = drawing.bounds as [number, number, number, number];
        const scale = Math.min((W - 6) / (r - l), (H - 6) / (b - t));
        const flip = (piece.fit?.sx ?? 1) < 0 ? -1 : 1;
        const m = new Float32Array([flip * scale, 0, 0, scale, W / 2 - (flip * scale * (l + r)) / 2, H / 2 - (scale * (t + b)) / 2]);
        return ready ? p.pixels(W, H, (c) => p.drawItem(c, item, m, 0)) : null;
      }}
    />
  );
}
