/** The top of the workshop: the production, the benches in the order people work, undo, and how things stand. */
import { rateName, RATES } from "./rates";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState, useSyncExternalStore } from "react";
import { Button, Modal } from "react-bootstrap";
import { Link, NavLink } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { KeyTable } from "../ui/KeyTable";
import { useShortcuts, type Shortcut } from "../ui/shortcuts";
import { allPuppets, keep, submit, turn, useProduction, useWorkshop, type Bench } from "../session";
import { chooseDrawing, chosenDrawing, type Drawing } from "../stage/surface";
import { usePerson } from "../people/Door";
import { otherRate, productions } from "../wire/http";
import type { ListedView } from "../wire/types";
import { IconButton } from "../ui/bits";
import { ColourField } from "./ColourField";
import { NumberField, TextField } from "../ui/fields";
import { Select } from "../ui/Select";

export const BENCHES: { id: Bench; name: string }[] = [
  { id: "pieces", name: "Pieces" },
  { id: "rig", name: "Rig" },
  { id: "motion", name: "Motion" },
  { id: "voice", name: "Voice" },
  { id: "shots", name: "Shots" },
  { id: "render", name: "Render" },
];

export function TopBar({ go }: { go: (bench: Bench) => void }) {
  const production = useProduction();
  const { id, undo, redo, saved, connected } = useWorkshop(
    useShallow((w) => ({ id: w.id, undo: w.undo, redo: w.redo, saved: w.saved, connected: w.connected })),
  );
  const may = useMay(id);
  const [help, setHelp] = useState(false);
  const [settings, setSettings] = useState(false);
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: ["Ctrl+z"], does: "Undo", run: () => void turn("undo") },
      { keys: ["Ctrl+Shift+z", "Ctrl+y"], does: "Redo", run: () => void turn("redo") },
      { keys: ["?"], does: "Show this sheet", run: () => setHelp(true) },
      ...BENCHES.map((b, i) => ({ keys: [String(i + 1)], does: `Go to the ${b.name} bench`, run: () => go(b.id) })),
    ],
    [go],
  );
  useShortcuts(shortcuts);
  const state = !connected
    ? ["cloud-slash", "Not connected"]
    : saved === "saved"
      ? ["check2", "Saved"]
      : saved === "saving"
        ? ["arrow-repeat", "Saving…"]
        : ["hourglass-split", "Waiting to save"];
  return (
    <header className="top">
      <Link to="/" className="icon-btn" aria-label="All productions">
        <img src="/pin.svg" width={24} height={24} alt="" />
      </Link>
      <button type="button" className="title" title="Production settings" onClick={() => setSettings(true)}>
        {production?.name} <i className="bi bi-sliders2 ms-1 small" aria-hidden="true" />
      </button>
      <nav className="benches" aria-label="Benches">
        {BENCHES.map((b, i) => (
          <NavLink key={b.id} to={`/p/${id}/${b.id}`} className={({ isActive }) => `tab${isActive ? " active" : ""}`}>
            <span className="number">{i + 1}</span>
            {b.name}
          </NavLink>
        ))}
      </nav>
      <span className="flex-grow-1" />
      <IconButton
        icon="arrow-counterclockwise"
        label={undo ? `Undo: ${undo.label}${by(undo)}` : "Nothing to undo"}
        keys="Ctrl+z"
        disabled={!undo}
        onClick={() => void turn("undo")}
      />
      <IconButton
        icon="arrow-clockwise"
        label={redo ? `Redo: ${redo.label}${by(redo)}` : "Nothing to redo"}
        keys="Ctrl+Shift+z"
        disabled={!redo}
        onClick={() => void turn("redo")}
      />
      {may === "look" && (
        <span className="saved" title="What you change here is not kept: ask its owner to let you edit it.">
          <i className="bi bi-eye" aria-hidden="true" />
          Look only
        </span>
      )}
      <span className="saved">
        <i className={`bi bi-${state[0]}`} aria-hidden="true" />
        {state[1]}
      </span>
      <ThemeButton />
      <IconButton icon="question-lg" label="Shortcuts and first steps" keys="?" onClick={() => setHelp(true)} />
      <HelpSheet show={help} close={() => setHelp(false)} />
      {settings && <Settings close={() => setSettings(false)} />}
    </header>
  );
}

/** Who did it, where people sign in. */
const by = (step: { who?: string }) => (step.who ? `, by ${step.who}` : "");

/** What whoever is here may do with a production. */
function useMay(id: string): ListedView["may"] {
  const asked = !!usePerson().data?.sign_in;
  const { data } = useQuery({ queryKey: ["productions"], queryFn: productions, enabled: asked });
  return data?.find((p) => p.id === id)?.may;
}

/** Whether the page is dim, by the user's choice or as the system is. */
const isDim = () => document.documentElement.dataset.bsTheme === "dark";
const whenDressed = (tell: () => void) => {
  const observer = new MutationObserver(tell);
  observer.observe(document.documentElement, { attributes: true, attributeFilter: ["data-bs-theme"] });
  return () => observer.disconnect();
};

function ThemeButton() {
  const dim = useSyncExternalStore(whenDressed, isDim);
  return (
    <IconButton
      icon={dim ? "sun" : "lamp"}
      label={dim ? "Light workshop" : "Dim workshop"}
      onClick={() => {
        document.documentElement.dataset.bsTheme = dim ? "light" : "dark";
        keep("theme", dim ? "light" : "dark");
      }}
    />
  );
}

function HelpSheet({ show, close }: { show: boolean; close: () => void }) {
  return (
    <Modal show={show} onHide={close} size="lg" aria-labelledby="help-title" scrollable>
      <Modal.Header closeButton>
        <Modal.Title id="help-title">Shortcuts and first steps</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <div className="row">
          <div className="col-6">
            <h3 className="heading mb-2">On this bench</h3>
            <KeyTable />
          </div>
          <div className="col-6">
            <h3 className="heading mb-2">From art to film</h3>
            <ol className="ps-3">
              <li className="mb-2">
                <strong>Pieces.</strong> Drop an SVG, an OpenRaster file, pictures or a folder on the stage, or draw
                shapes. Drag each pin to where the piece should turn. Gather mouths or hands into one piece.
              </li>
              <li className="mb-2">
                <strong>Rig.</strong> Drag from a piece to the piece it hangs on: hand to forearm, forearm to upper arm.
                Or draw joints over the art and let a piece bend over them. Select a foot and let it reach. Look at the
                checks. Try a pose; it goes back by itself.
              </li>
              <li className="mb-2">
                <strong>Motion.</strong> Go to a frame, pull the pieces and the red handles, and go to the next. Each
                pull makes a key; so does a click on a drawing or a slide of a dial. Click a bead to ease or hold it.
              </li>
              <li className="mb-2">
                <strong>Voice.</strong> Drop a recording, type what is said, find its sounds, and make the mouths.
              </li>
              <li className="mb-2">
                <strong>Shots.</strong> Bring puppets and sets into a shot, let them do motions, walk along ways, and
                key the camera.
              </li>
              <li className="mb-2">
                <strong>Render.</strong> Choose the shot or the whole film, its size and format, and fetch it.
              </li>
            </ol>
            <h3 className="heading mb-2">On any stage</h3>
            <p className="mb-0">
              The wheel zooms where the pointer is; drag with the right button to shift the view. Hold{" "}
              <span className="key-cap">Shift</span> while pulling for whole steps. <span className="key-cap">Esc</span>{" "}
              lets go.
            </p>
          </div>
        </div>
      </Modal.Body>
    </Modal>
  );
}

function Settings({ close }: { close: () => void }) {
  const production = useProduction()!;
  const documents = useWorkshop((w) => w.documents);
  const [asked, setAsked] = useState<[number, number] | null>(null);
  const rate = `${production.rate?.numerator}/${production.rate?.denominator}`;
  // Without anything that lasts there is nothing to ask.
  const timed = Object.values(documents).some((d) => d.kind === "motion" || d.kind === "shot");
  const done = () => {
    // What was chosen is meant: the question stands on its first answer.
    if (asked) convert(asked);
    close();
  };
  return (
    <Modal show onHide={close} aria-labelledby="settings-title">
      <Modal.Header closeButton>
        <Modal.Title id="settings-title">Production</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <div className="fields">
          <label htmlFor="p-name">Name</label>
          <TextField
            id="p-name"
            value={production.name}
            needed
            onCommit={(name) => void submit({ do: "set-production", name })}
          />
          <label htmlFor="p-rate">Frame rate</label>
          <Select
            id="p-rate"
            size="sm"
            value={asked ? asked.join("/") : rate}
            onChange={(e) => {
              const chosen = e.target.value.split("/").map(Number) as [number, number];
              if (timed) setAsked(e.target.value === rate ? null : chosen);
              else convert(chosen);
            }}
          >
            {RATES.map(([n, d]) => (
              <option key={`${n}/${d}`} value={`${n}/${d}`}>
                {rateName(n, d)}
              </option>
            ))}
          </Select>
          {asked && <OtherRate production={production.id} rate={asked} close={() => setAsked(null)} />}
          <label htmlFor="p-width">Stage width</label>
          <NumberField
            id="p-width"
            of="Production.width"
            value={production.width}
            unit="units"
            onCommit={(width) => void submit({ do: "set-production", width: width })}
          />
          <label htmlFor="p-height">Stage height</label>
          <NumberField
            id="p-height"
            of="Production.height"
            value={production.height}
            unit="units"
            onCommit={(height) => void submit({ do: "set-production", height: height })}
          />
          <span className="faint">Paper</span>
          <ColourField
            label="Paper"
            value={production.paper}
            onCommit={(paper) => void submit({ do: "set-production", paper })}
          />
          <label htmlFor="p-backdrop">Backdrop</label>
          <Select
            id="p-backdrop"
            size="sm"
            value={production.backdrop ?? ""}
            onChange={(e) => void submit({ do: "set-production", backdrop: e.target.value || null })}
          >
            <option value="">None: plain paper</option>
            {allPuppets(documents).map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </Select>
          <label htmlFor="p-drawing">Stage drawn by</label>
          <Select
            id="p-drawing"
            size="sm"
            value={chosenDrawing()}
            onChange={(e) => {
              chooseDrawing(e.target.value as Drawing);
              location.reload();
            }}
          >
            <option value="auto">whichever is faster</option>
            <option value="card">the graphics card</option>
            <option value="software">software</option>
          </Select>
        </div>
        <p className="hint">The backdrop stands behind every motion, on the stage and in the film.</p>
      </Modal.Body>
      <Modal.Footer className="justify-content-between">
        <a className="btn btn-outline-primary btn-sm" href={`/api/productions/${production.id}/archive`} download>
          <i className="bi bi-archive me-2" aria-hidden="true" />
          Export the whole production
        </a>

        <Button size="sm" onClick={done}>
          Done
        </Button>
      </Modal.Footer>
    </Modal>
  );
}

/** Another frame rate, and everything lasts as long as before. */
const convert = ([numerator, denominator]: [number, number]): void =>
  void submit({ do: "convert-rate", rate: { numerator, denominator } });

/** What another frame rate means: the same frames in another time, or the same time in other frames. */
function OtherRate({ production, rate, close }: { production: string; rate: [number, number]; close: () => void }) {
  const [numerator, denominator] = rate;
  const { data } = useQuery({
    queryKey: ["rate", production, numerator, denominator],
    queryFn: () => otherRate(production, numerator, denominator),
    gcTime: 0,
  });
  const sum = (of: "keys" | "between" | "lost") => (data ?? []).reduce((n, m) => n + m[of], 0);
  const worst = [...(data ?? [])].filter((m) => m.lost > 0).sort((a, b) => b.lost - a.lost);
  const given = { numerator, denominator };
  return (
    <div className="other-rate card-sheet" role="group" aria-label="Another frame rate">
      {data ? (
        <p className="mb-2">
          Of {sum("keys")} keys {sum("between")} would fall between two frames and go to the nearer
          {sum("lost") > 0 ? `; ${sum("lost")} give way to another that goes to the same frame` : ""}.
          {worst.length > 0 &&
            ` Most of them in ${worst
              .slice(0, 3)
              .map((m) => `“${m.name}” (${m.lost})`)
              .join(", ")}.`}
        </p>
      ) : (
        <p className="faint mb-2">Looking at the keys…</p>
      )}
      <div className="d-flex flex-wrap gap-1">
        <Button
          size="sm"
          onClick={() => {
            close();
            convert(rate);
          }}
        >
          Convert: keep the time
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() => {
            close();
            void submit({ do: "set-production", rate: given });
          }}
        >
          Keep the frames
        </Button>
        <Button size="sm" variant="link" onClick={close}>
          Leave it
        </Button>
      </div>
    </div>
  );
}
