/** The film on paper, and as a timeline for other programs. */
import { useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { bringTimeline, notify } from "../../session";
import { Fold } from "../../ui/Fold";
import { contactSheet, timelineFile } from "../../wire/http";

const EVERY = [
  [0, "of every pose"],
  [6, "of every 6th frame"],
  [12, "of every 12th frame"],
  [24, "of every 24th frame"],
] as const;

export function PapersCard({ production, shot }: { production: string; shot?: string | null }) {
  const [every, setEvery] = useState(0);
  const input = useRef<HTMLInputElement>(null);
  const bring = async (file: File) => {
    if (await bringTimeline(file)) notify(true, file.name, "The film has the order and the lengths of the timeline.");
  };
  return (
    <Fold title="On paper, and for others">
      <div className="fields">
        <label htmlFor="p-every">Pictures</label>
        <Form.Select id="p-every" size="sm" value={every} onChange={(e) => setEvery(Number(e.target.value))}>
          {EVERY.map(([n, name]) => (
            <option key={n} value={n}>
              {name}
            </option>
          ))}
        </Form.Select>
      </div>
      <div className="d-flex flex-column gap-1 mt-2">
        <a
          className="btn btn-sm btn-outline-primary"
          href={contactSheet(production, shot ?? null, every || null)}
          download
        >
          <i className="bi bi-grid-3x3-gap me-2" aria-hidden="true" />
          Contact sheet {shot ? "of the shot" : "of the film"} (PDF)
        </a>
        <a className="btn btn-sm btn-outline-primary" href={timelineFile(production)} download>
          <i className="bi bi-list-nested me-2" aria-hidden="true" />
          Timeline of the film (.otio)
        </a>
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
    </Fold>
  );
}
