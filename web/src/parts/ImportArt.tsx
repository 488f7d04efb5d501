/** Bringing art in: by button or by dropping files, with a report of what came and what became a picture. */
import { useRef, useState, type ReactNode } from "react";
import { Button, Modal } from "react-bootstrap";
import type { Report } from "../api/types";
import { addPuppet } from "./PuppetPicker";
import { get, importFiles, notify } from "../state/workshop";

interface Asked {
  files: File[];
  puppet: string;
  report: Report;
}

export function useImport(): { bring: (files: File[]) => void; choose: () => void; parts: ReactNode; busy: boolean } {
  const input = useRef<HTMLInputElement>(null);
  const [asked, setAsked] = useState<Asked | null>(null);
  const [busy, setBusy] = useState(false);

  const bring = async (files: File[], loose = false) => {
    if (!files.length) return;
    const first = files[0]!.name.replace(/\.[^.]*$/, "") || "Puppet";
    const puppet = get().puppet ?? (await addPuppet(first));
    if (!puppet) return;
    setBusy(true);
    const report = await importFiles(files, puppet, loose);
    setBusy(false);
    if (!report) return;
    if (report.offer || report.notes.length) setAsked({ files, puppet, report });
    else notify(true, "Brought in", `${report.pieces.length} ${report.pieces.length === 1 ? "piece" : "pieces"}: ${report.pieces.slice(0, 6).join(", ")}${report.pieces.length > 6 ? "…" : ""}`);
  };

  const parts = (
    <>
      <input
        ref={input}
        type="file"
        multiple
        accept=".svg,.png,.webp,image/svg+xml,image/png,image/webp"
        className="visually-hidden-file"
        tabIndex={-1}
        aria-label="Art to bring in"
        onChange={(e) => {
          void bring([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
      {asked && (
        <Modal show onHide={() => setAsked(null)} aria-labelledby="report-title" scrollable>
          <Modal.Header closeButton>
            <Modal.Title id="report-title">{asked.report.offer ? "Nothing in this drawing is named" : `${asked.report.pieces.length} pieces brought in`}</Modal.Title>
          </Modal.Header>
          <Modal.Body>
            {asked.report.offer > 0 && <p>Its {asked.report.offer} top-level shapes can be brought in as pieces instead: {asked.report.pieces.join(", ")}.</p>}
            <ul className="mb-0 ps-3">
              {asked.report.notes.map((note) => (
                <li key={note}>{note}</li>
              ))}
            </ul>
          </Modal.Body>
          <Modal.Footer>
            {asked.report.offer > 0 ? (
              <>
                <Button variant="outline-primary" onClick={() => setAsked(null)}>
                  Leave it
                </Button>
                <Button
                  onClick={() => {
                    setAsked(null);
                    void bring(asked.files, true);
                  }}
                >
                  Bring in {asked.report.offer} shapes
                </Button>
              </>
            ) : (
              <Button onClick={() => setAsked(null)}>Good</Button>
            )}
          </Modal.Footer>
        </Modal>
      )}
      {busy && (
        <div className="banner card-sheet" role="status">
          <span className="spinner-border spinner-border-sm me-2" aria-hidden="true" />
          Reading the art…
        </div>
      )}
    </>
  );
  return { bring: (files) => void bring(files), choose: () => input.current?.click(), parts, busy };
}
