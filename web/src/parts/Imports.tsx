/** An import under way, and the report of what came and what became a picture. */
import { Button, Modal, ProgressBar } from "react-bootstrap";
import { freshId, get, importFiles, notify, stopImport, submit, useWorkshop, type Brought, see } from "../session";
import { bring } from "./bringing";
import { several } from "../ui/text";

function Names({ title, names }: { title: string; names: string[] }) {
  if (!names.length) return null;
  return (
    <>
      <h3 className="h6 mb-1">
        {title} ({names.length})
      </h3>
      <p className="small mb-2">{names.join(", ")}</p>
    </>
  );
}

/** How far an import has come, on whatever bench. */
export function UnderWay() {
  const part = useWorkshop((w) => w.importing);
  if (part === null) return null;
  return (
    // Its beginning is said; every percent would be too much.
    <div className="notice good card-sheet">
      <div className="d-flex align-items-center mb-1 gap-2">
        <strong className="flex-grow-1">Reading what comes in…</strong>
        <span className="faint" aria-live="off">
          {part > 0 && `${Math.round(part * 100)} %`}
        </span>
        <Button variant="outline-primary" size="sm" onClick={() => void stopImport()}>
          Cancel
        </Button>
      </div>
      {/* Until the reader says how far it is, it is only said that it reads. */}
      <ProgressBar
        now={part > 0 ? part * 100 : 100}
        striped={part === 0}
        animated={part === 0}
        aria-label="How far the import has come"
        aria-valuetext={part > 0 ? undefined : "reading"}
        className="low"
      />
    </div>
  );
}

/** What came of an import that is to be asked about, on whatever bench. */
export function ImportReport() {
  const brought = useWorkshop((w) => w.brought);
  return brought && <ReportSheet brought={brought} close={() => see({ brought: null })} />;
}

function ReportSheet({ brought, close }: { brought: Brought; close: () => void }) {
  const { report, bringing, files } = brought;
  const renewing = bringing.purpose === "new-version";
  const offer = report.offer ?? 0;
  const views = renewing || offer ? [] : (report.views ?? []);
  const makeViews = async () => {
    close();
    const puppet = get().documents[bringing.puppet];
    const known = puppet?.kind === "puppet" ? Object.values(puppet.dials ?? {}).find((d) => d.turns) : undefined;
    if (await submit({ do: "gather-views", puppet: bringing.puppet, dial: known?.id ?? freshId() }))
      notify(true, "Views made", `${views.join(", ")}. On the Rig bench a dial turns the puppet through them.`);
  };
  const nothing = !report.changed?.length && !report.added?.length;
  const title = offer
    ? "Nothing in this drawing is named"
    : renewing
      ? "The new version"
      : `${several(report.pieces.length, "piece")} brought in`;
  const take = () => {
    close();
    void importFiles(files, { ...bringing, dry: false }).then(
      (done) =>
        done?.ack &&
        notify(
          true,
          "New version taken",
          `${several(done.changed?.length ?? 0, "drawing")} changed. Pivots, joints and keys are as they were.`,
        ),
    );
  };
  return (
    <Modal show onHide={close} aria-labelledby="report-title" scrollable>
      <Modal.Header closeButton>
        <Modal.Title id="report-title">{title}</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {offer > 0 && (
          <p>
            Its {offer} top-level shapes can be brought in as pieces instead: {report.pieces.join(", ")}.
          </p>
        )}
        {renewing && (
          <>
            <Names title="Changed" names={report.changed ?? []} />
            <Names title="New: they come in as loose pieces" names={report.added ?? []} />
            <Names title="No longer in the file: they stay as they are" names={report.vanished ?? []} />
            <p className="hint mt-0">
              {several(report.same ?? 0, "drawing")} did not change. Pivots, joints, links and keys stay as they are.
            </p>
          </>
        )}
        {views.length > 0 && (
          <p>
            Pieces are named by views: {views.join(", ")}. Made views, what is one thing in several of them becomes one
            piece with a drawing for each, and a dial turns the puppet.
          </p>
        )}
        <ul className="mb-0 ps-3">
          {[...report.notes, ...(report.sized ? [report.sized] : [])].map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      </Modal.Body>
      <Modal.Footer>
        {offer > 0 || (renewing && !nothing) ? (
          <>
            <Button variant="outline-primary" onClick={close}>
              Leave it
            </Button>
            <Button
              onClick={() => {
                if (renewing) return take();
                close();
                void bring(files, { purpose: bringing.purpose, target: bringing.target }, true);
              }}
            >
              {renewing ? "Take the new version" : `Bring in ${offer} shapes`}
            </Button>
          </>
        ) : views.length > 0 ? (
          <>
            <Button variant="outline-primary" onClick={close}>
              Leave them as pieces
            </Button>
            <Button onClick={() => void makeViews()}>Make views of them</Button>
          </>
        ) : (
          <Button onClick={close}>Good</Button>
        )}
      </Modal.Footer>
    </Modal>
  );
}
