/** Bringing art in: by button or by dropping files and folders, with a report of what came and what became a picture. */
import { useRef, useState, type ReactNode } from "react";
import { Button, Modal, ProgressBar } from "react-bootstrap";
import { setPlace } from "../wire/http";
import type { Report } from "../wire/types";
import { addPuppet } from "./PuppetPicker";
import { freshId, get, importFiles, notify, submit, useWorkshop, type Bringing } from "../session";

type Wish = Pick<Bringing, "purpose" | "target">;

interface Asked {
  files: File[];
  bringing: Bringing;
  report: Report;
}

export interface Importing {
  bring: (files: File[], wish?: Wish) => void;
  drop: (data: DataTransfer) => void;
  choose: (wish?: Wish) => void;
  chooseFolder: () => void;
  parts: ReactNode;
}

const several = (n: number, one: string) => `${n} ${one}${n === 1 ? "" : "s"}`;

export function useImport(): Importing {
  const input = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const wished = useRef<Wish>({});
  const [asked, setAsked] = useState<Asked | null>(null);
  const part = useWorkshop((w) => w.importing);

  const bring = async (files: File[], wish: Wish = {}, loose = false) => {
    if (!files.length) return;
    const first = files[0]!.name.replace(/\.[^.]*$/, "") || "Puppet";
    const puppet = get().puppet ?? (await addPuppet(first));
    if (!puppet) return;
    const bringing: Bringing = { puppet, loose, ...wish };
    const renewing = wish.purpose === "new-version";
    // A new version is looked at before it is taken: it changes what is there.
    const report = await importFiles(files, { ...bringing, dry: renewing });
    if (!report) return;
    if (renewing || report.offer || report.notes.length || report.views?.length) setAsked({ files, bringing, report });
    else if (wish.purpose === "reference")
      notify(true, "Laid under the work", `${several(report.pieces.length, "picture")}. It is never rendered.`);
    else
      notify(
        true,
        "Brought in",
        `${several(report.pieces.length, wish.purpose === "drawings" ? "drawing" : "piece")}: ${report.pieces.slice(0, 6).join(", ")}${report.pieces.length > 6 ? "…" : ""}`,
      );
  };

  const chosen = (element: HTMLInputElement) => {
    void bring([...(element.files ?? [])].filter(wanted), wished.current);
    element.value = "";
  };

  const parts = (
    <>
      <input
        ref={input}
        type="file"
        multiple
        accept=".svg,.ora,.png,.webp,.mp4,.m4v,.mov,.webm,.mkv,.avi,.gif,image/svg+xml,image/openraster,image/png,image/webp,video/*"
        className="visually-hidden-file"
        tabIndex={-1}
        aria-label="Art to bring in"
        onChange={(e) => chosen(e.target)}
      />
      <input
        ref={folder}
        type="file"
        {...{ webkitdirectory: "" }}
        className="visually-hidden-file"
        tabIndex={-1}
        aria-label="Folder of pictures to bring in"
        onChange={(e) => chosen(e.target)}
      />
      {asked && <ReportSheet asked={asked} close={() => setAsked(null)} again={bring} />}
      {part !== null && (
        <div className="banner card-sheet" role="status" style={{ width: 300 }}>
          <div className="d-flex mb-1">
            <span className="flex-grow-1">Reading the art…</span>
            <span className="faint">{Math.round(part * 100)} %</span>
          </div>
          <ProgressBar now={part * 100} aria-label="How far the import has come" style={{ height: 6 }} />
        </div>
      )}
    </>
  );
  return {
    bring: (files, wish) => void bring(files.filter(wanted), wish),
    drop: (data) => void dropped(data).then((files) => bring(files.filter(wanted))),
    choose: (wish = {}) => {
      wished.current = wish;
      input.current?.click();
    },
    chooseFolder: () => {
      wished.current = {};
      folder.current?.click();
    },
    parts,
  };
}

/** Folders hold much that is no art; a file chosen by itself is always tried. */
const wanted = (file: File, _: number, all: File[]): boolean =>
  (all.length === 1 && !file.webkitRelativePath) ||
  /\.(svg|ora|png|webp)$/i.test(file.name) ||
  !file.webkitRelativePath;

/** Dropped files, those in dropped folders among them, each remembering where it lay. */
async function dropped(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry?.()).filter((e) => e !== null && e !== undefined);
  if (!entries.some((e) => e.isDirectory)) return [...data.files];
  const files: File[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((done, failed) => (entry as FileSystemFileEntry).file(done, failed));
      if (!/\.(svg|ora|png|webp)$/i.test(file.name)) return;
      setPlace(file, entry.fullPath.replace(/^\//, ""));
      files.push(file);
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const inside = await new Promise<FileSystemEntry[]>((done, failed) => reader.readEntries(done, failed));
      if (!inside.length) return;
      for (const e of inside) await walk(e);
    }
  };
  for (const entry of entries) await walk(entry);
  return files;
}

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

function ReportSheet({
  asked,
  close,
  again,
}: {
  asked: Asked;
  close: () => void;
  again: (files: File[], wish: Wish, loose: boolean) => Promise<void>;
}) {
  const { report, bringing, files } = asked;
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
          {report.notes.map((note) => (
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
                void again(files, { purpose: bringing.purpose, target: bringing.target }, true);
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
