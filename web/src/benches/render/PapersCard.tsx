/** What is rendered as vectors, on paper, and as a timeline for other programs. */
import { useRef, useState } from "react";
import { bringTimeline, notify } from "../../session";
import { Fold } from "../../ui/Fold";
import { NumberField } from "../../ui/fields";
import { animatedSvg, contactSheet, frameSvg, timelineFile } from "../../wire/http";
import type { What } from "./what";
import { Select } from "../../ui/Select";

const EVERY = [
  [0, "of every pose"],
  [6, "of every 6th frame"],
  [12, "of every 12th frame"],
  [24, "of every 24th frame"],
] as const;

/** A link that fetches a file. */
function Fetch({ href, icon, children }: { href: string; icon: string; children: React.ReactNode }) {
  return (
    <a className="btn btn-sm btn-outline-primary" href={href} download>
      <i className={`bi bi-${icon} me-2`} aria-hidden="true" />
      {children}
    </a>
  );
}

export function PapersCard({ production, what, film }: { production: string; what: What; film: boolean }) {
  const { shot, motion } = what.order;
  const [frame, setFrame] = useState<number | null>(null);
  const of: Record<string, string> = { ...(shot ? { shot } : {}), ...(motion ? { motion } : {}) };
  return (
    <Fold title="As vectors, on paper, for others" open={false}>
      <div className="fields">
        <label htmlFor="p-frame">Frame</label>
        <NumberField
          id="p-frame"
          of="RenderOrder.first"
          value={frame ?? what.first}
          max={what.length}
          onCommit={(v) => setFrame(v)}
        />
      </div>
      <div className="d-flex flex-column gap-1 mt-2">
        <Fetch href={frameSvg(production, of, frame ?? what.first)} icon="vector-pen">
          This frame as vectors (SVG)
        </Fetch>
        {(shot ?? motion) && (
          <Fetch href={animatedSvg(production, of)} icon="play-circle">
            All of it as animated SVG
          </Fetch>
        )}
      </div>
      {film && !motion && <Papers production={production} shot={shot ?? null} />}
    </Fold>
  );
}

function Papers({ production, shot }: { production: string; shot: string | null }) {
  const [every, setEvery] = useState(0);
  const input = useRef<HTMLInputElement>(null);
  const bring = async (file: File) => {
    if (await bringTimeline(file)) notify(true, file.name, "The film has the order and the lengths of the timeline.");
  };
  return (
    <>
      <div className="fields mt-3">
        <label htmlFor="p-every">Pictures</label>
        <Select id="p-every" size="sm" value={every} onChange={(e) => setEvery(Number(e.target.value))}>
          {EVERY.map(([n, name]) => (
            <option key={n} value={n}>
              {name}
            </option>
          ))}
        </Select>
      </div>
      <div className="d-flex flex-column gap-1 mt-2">
        <Fetch href={contactSheet(production, shot, every || null)} icon="grid-3x3-gap">
          Contact sheet {shot ? "of the shot" : "of the film"} (PDF)
        </Fetch>
        <Fetch href={timelineFile(production)} icon="list-nested">
          Timeline of the film (.otio)
        </Fetch>
        <button type="button" className="btn btn-sm btn-outline-primary" onClick={() => input.current?.click()}>
          <i className="bi bi-box-arrow-in-down me-2" aria-hidden="true" />
          Arrange the film by a timeline…
        </button>
        <input
          ref={input}
          type="file"
          accept=".otio,application/json"
          hidden
          aria-label="Timeline"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) void bring(file);
            e.target.value = "";
          }}
        />
      </div>
      <p className="hint">
        A timeline names the film of each shot; what another program changes of order and lengths comes back with it.
        Undo takes it back.
      </p>
    </>
  );
}
