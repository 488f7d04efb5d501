/** Details of the shot as a whole, and who can come into it. */
import { frameRate, freshId, get, playedOf, shotsOf, submit, useWorkshop, bringSound } from "../../session";
import { SOUNDS } from "../../parts/sounds";
import { Fold } from "../../ui/Fold";
import { ColourField } from "../../parts/ColourField";
import { NumberRow, TextField } from "../../ui/fields";
import { Menu } from "../../ui/Menu";
import { mostOf } from "../../ui/numbers";
import { CHOICES } from "../../wire/facts.gen";
import type { Pass, Shot } from "../../wire/types";
import { bringOn, toCast } from "./commands";
import { clockTime } from "./ShotCards";
import { useRef } from "react";
import { Select } from "../../ui/Select";

const TOLD: Record<Pass, { name: string; text: string }> = {
  blocking: { name: "Blocking", text: "poses held, no in-betweens" },
  breakdown: { name: "Breakdown", text: "in-betweens, nothing comes late yet" },
  final: { name: "Final", text: "everything, with overlap, copies and shake" },
};
export const PASSES = CHOICES["Shot.stage"].map((id: Pass) => ({ id, ...TOLD[id] }));

export function ShotPanel({ shot }: { shot: Shot }) {
  const documents = useWorkshop((w) => w.documents);
  const rate = frameRate({ documents });
  const shots = shotsOf({ documents });
  const [first, stop] = playedOf(shot);
  const length = shot.length;
  const id = shot.id;
  const join = shot.join;
  const setJoin = (given: Partial<typeof join>) => void submit({ do: "set-shot", shot: id, join: given });
  const close = shot.close ?? null;
  const setClose = (given: Partial<NonNullable<typeof close>> | null) =>
    void submit({ do: "set-shot", shot: id, close: given });
  return (
    <Fold title="Shot" note={clockTime(stop - first, rate)}>
      <div className="fields">
        <label htmlFor="s-name">Name</label>
        <TextField id="s-name" value={shot.name} onCommit={(name) => void submit({ do: "set-shot", shot: id, name })} />
        <label htmlFor="s-pass">Pass</label>
        <Select
          id="s-pass"
          size="sm"
          value={shot.stage}
          title={PASSES.find((p) => p.id === shot.stage)!.text}
          onChange={(e) => void submit({ do: "set-shot", shot: id, stage: e.target.value as Pass })}
        >
          {PASSES.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}: {p.text}
            </option>
          ))}
        </Select>
        <NumberRow
          id="s-length"
          label="Length"
          of="Shot.length"
          value={length}
          onCommit={(v) => void submit({ do: "set-shot-length", shot: id, length: v })}
        />
        {(first > 0 || stop < length) && (
          <>
            <NumberRow
              id="s-first"
              label="Plays from"
              of="Shot.first"
              plus={1}
              value={first}
              unit="frame"
              max={stop - 1}
              onCommit={(v) => void submit({ do: "set-shot", shot: id, first: v })}
            />
            <NumberRow
              id="s-stop"
              label="Up to"
              of="Shot.stop"
              value={stop}
              unit="frame"
              min={first + 1}
              max={length}
              onCommit={(v) => void submit({ do: "set-shot", shot: id, stop: v })}
            />
          </>
        )}
        {shots[0]?.id !== id || join.kind === "fade" ? (
          <>
            <label htmlFor="s-join">Begins</label>
            <Select
              id="s-join"
              size="sm"
              value={join.kind}
              onChange={(e) => setJoin({ kind: e.target.value as typeof join.kind })}
            >
              <option value="cut">at once, with a cut</option>
              <option value="fade">fading in from a colour</option>
              {shots[0]?.id !== id && <option value="dissolve">dissolving from the one before</option>}
            </Select>
          </>
        ) : (
          <>
            <label htmlFor="s-join">Begins</label>
            <Select id="s-join" size="sm" value={join.kind} onChange={() => setJoin({ kind: "fade" })}>
              <option value="cut">at once</option>
              <option value="fade">fading in from a colour</option>
            </Select>
          </>
        )}
        {join.kind !== "cut" && (
          <NumberRow
            id="s-join-frames"
            label="Over"
            of="Join.frames"
            value={join.frames}
            onCommit={(frames) => setJoin({ frames })}
          />
        )}
        {join.kind === "fade" && (
          <>
            <span className="faint">Colour</span>
            <ColourField label="Colour of the fade" value={join.colour} onCommit={(colour) => setJoin({ colour })} />
          </>
        )}
        <label htmlFor="s-close">Ends</label>
        <Select
          id="s-close"
          size="sm"
          value={close ? "fade" : "cut"}
          onChange={(e) => setClose(e.target.value === "fade" ? { frames: 24 } : null)}
        >
          <option value="cut">at once, or as the next begins</option>
          <option value="fade">fading into a colour</option>
        </Select>
        {close && (
          <>
            <NumberRow
              id="s-close-frames"
              label="Over"
              of="Close.frames"
              value={close.frames}
              onCommit={(frames) => setClose({ frames })}
            />
            <span className="faint">Colour</span>
            <ColourField label="Colour at the end" value={close.colour} onCommit={(colour) => setClose({ colour })} />
          </>
        )}
      </div>
      <label className="faint small mt-2 d-block" htmlFor="s-note">
        Note
      </label>
      <TextField
        key={id}
        id="s-note"
        lines={2}
        longest={2000}
        value={shot.note}
        onCommit={(note) => void submit({ do: "set-shot", shot: id, note })}
      />
    </Fold>
  );
}

/** Who and what can come into the shot. */
export function AddPanel({ shot }: { shot: Shot }) {
  const documents = useWorkshop((w) => w.documents);
  const input = useRef<HTMLInputElement>(null);
  const voices = Object.values(documents).filter((d) => d.kind === "voice");
  const puppets = toCast();
  /** Where a sound that comes in now is put: at the frame that shows, on a row of its own. */
  const here = () => {
    const now = get();
    const rows = Object.values(shot.sounds ?? {}).map((s) => s.row);
    return {
      at: Math.round((now.frame / frameRate(now)) * 1000) / 1000,
      row: rows.length ? Math.min(mostOf("Heard.row"), Math.max(...rows) + 1) : 0,
    };
  };
  const place = (voice: string) =>
    void submit({ do: "place-heard", shot: shot.id, sound: { id: freshId(), voice, ...here() } });
  const bring = async (files: File[]) => {
    for (const file of files) await bringSound(file, { shot: shot.id, ...here() });
  };
  return (
    <div className="card-sheet add-panel">
      <Menu
        label="Bring in a puppet or a set"
        entries={puppets.map((p) => ({ key: p.id, text: p.name, run: () => void bringOn(p) }))}
      >
        <i className="bi bi-person-plus" aria-hidden="true" /> Puppet
      </Menu>
      <Menu
        label="Bring in copies"
        entries={puppets.map((p) => ({ key: p.id, text: `Copies of ${p.name}`, run: () => void bringOn(p, true) }))}
      >
        <i className="bi bi-stars" aria-hidden="true" /> Copies
      </Menu>
      <Menu
        label="Bring in a sound"
        align="end"
        entries={[
          ...voices.map((v) => ({ key: v.id, text: `${v.name} at the frame that shows`, run: () => place(v.id) })),
          voices.length > 0 && ("line" as const),
          { text: "A sound from a file…", run: () => input.current?.click() },
        ]}
      >
        <i className="bi bi-volume-up" aria-hidden="true" /> Sound
      </Menu>
      <input
        ref={input}
        type="file"
        accept={SOUNDS}
        multiple
        hidden
        aria-label="Sounds for the shot"
        onChange={(e) => {
          if (e.target.files?.length) void bring([...e.target.files]);
          e.target.value = "";
        }}
      />
    </div>
  );
}
