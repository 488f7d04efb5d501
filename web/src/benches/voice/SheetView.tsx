/** The exposure sheet: a line for every frame, as animators read it on paper. */
import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { Button, Modal } from "react-bootstrap";
import { frameRate, get, goTo, useWorkshop } from "../../session";
import * as http from "../../wire/http";
import type { Motion } from "../../wire/types";

const COLUMNS = ["word", "phones", "mouth", "pose", "note"] as const;
const HEADS = { word: "Words", phones: "Sounds", mouth: "Mouth", pose: "Pose", note: "Notes" };

export function SheetView({ motion, close }: { motion: Motion; close: () => void }) {
  const production = useWorkshop((w) => w.id);
  const seq = useWorkshop((w) => w.seq);
  const frame = useWorkshop((w) => w.frame);
  const second = useWorkshop((w) => Math.round(frameRate(w)));
  const found = useQuery({
    queryKey: ["sheet", production, motion.id, seq],
    queryFn: () => http.exposureSheet(production, motion.id),
  });
  const box = useRef<HTMLDivElement>(null);
  const lines = found.data ?? [];
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: () => 24,
    overscan: 12,
  });
  const ready = lines.length > 0;
  useEffect(() => {
    // It opens at the frame that shows.
    if (ready) rows.scrollToIndex(get().frame, { align: "center" });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ready]);
  return (
    <Modal show size="lg" onHide={close} aria-labelledby="sheet-title" scrollable>
      <Modal.Header closeButton>
        <Modal.Title id="sheet-title">Exposure sheet: {motion.name}</Modal.Title>
      </Modal.Header>
      <div className="exposure" ref={box} tabIndex={-1}>
        <div className="exposure-line head" role="row">
          <span>Frame</span>
          {COLUMNS.map((c) => (
            <span key={c}>{HEADS[c]}</span>
          ))}
        </div>
        <div
          className="position-relative"
          style={{ height: rows.getTotalSize() }}
          role="table"
          aria-label="Exposure sheet"
        >
          {rows.getVirtualItems().map((row) => {
            const line = lines[row.index]!;
            return (
              <div
                key={row.key}
                role="row"
                className={`exposure-line${line.frame === frame ? " here" : ""}${line.frame % second === 0 ? " second" : ""}`}
                style={{ top: row.start, height: row.size }}
                data-frame={line.frame}
              >
                <button type="button" className="icon-btn" onClick={() => goTo(line.frame)} title="Go to this frame">
                  {line.frame + 1}
                </button>
                {COLUMNS.map((c) => (
                  <span key={c} role="cell">
                    {line[c] === "|" ? <i className="on" aria-label="goes on" /> : line[c]}
                  </span>
                ))}
              </div>
            );
          })}
        </div>
      </div>
      <Modal.Footer>
        <a className="btn btn-primary btn-sm" href={http.sheetFile(production, motion.id)} download>
          Save as PDF
        </a>
        <Button size="sm" variant="outline-primary" onClick={close}>
          Close
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
