/** The selected word or sound: what it is called, when it is heard, and whether it bears an accent. */
import { submit, useLine, useWorkshop } from "../../session";
import { moveBoundary } from "../../ribbon/Tier";
import { spansOf } from "../../ribbon/ribbon";
import { NumberRow, TextField } from "../../ui/fields";
import { Select } from "../../ui/Select";

export function EntryPanel() {
  const line = useLine();
  const entry = useWorkshop((w) => w.entry);
  if (!line || !entry) return null;
  const span = spansOf(line, entry.tier).find((s) => s.id === entry.id);
  if (!span) return null;
  const word = entry.tier === "words" ? line.voice.chart?.words?.[entry.id] : undefined;
  return (
    <section className="card-sheet" aria-label="Selected entry">
      <h2 className="heading mb-1">{entry.tier === "words" ? "Word" : "Sound"}</h2>
      <div className="fields">
        <label htmlFor="entry-label">{entry.tier === "words" ? "Text" : "Sound"}</label>
        <TextField
          key={`${entry.tier}-${entry.id}`}
          id="entry-label"
          value={span.text}
          placeholder="pause"
          longest={80}
          onCommit={(called) =>
            void submit({ do: "label-entry", voice: line.voice.id, tier: entry.tier, entry: entry.id, called })
          }
        />
        <NumberRow
          id="entry-start"
          label="Begins at"
          of="Phone.start"
          value={span.start}
          unit="s"
          digits={4}
          onCommit={(to) => void moveBoundary(line, entry.tier, entry.id, { to }, false)}
        />
        <span className="faint">Lasts</span>
        <span>{(span.end - span.start).toFixed(3)} s</span>
        {word && (
          <>
            <label htmlFor="entry-accent">Accent</label>
            <Select
              id="entry-accent"
              size="sm"
              value={word.accent == null ? "auto" : word.accent ? "yes" : "no"}
              onChange={(e) =>
                void submit({
                  do: "set-accent",
                  voice: line.voice.id,
                  entry: entry.id,
                  accent: e.target.value === "auto" ? null : e.target.value === "yes",
                })
              }
            >
              <option value="auto">as it is heard</option>
              <option value="yes">stressed</option>
              <option value="no">not stressed</option>
            </Select>
          </>
        )}
      </div>
    </section>
  );
}
