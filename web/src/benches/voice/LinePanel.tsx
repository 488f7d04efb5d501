/** The lines of a motion, and of the one that is worked on its text, its chart, and how it is heard. */
import { bring, SOUNDS } from "../../parts/sounds";
import { useEffect, useRef, useState } from "react";
import { Button, ProgressBar } from "react-bootstrap";
import { useQuery } from "@tanstack/react-query";
import * as http from "../../wire/http";
import {
  bringChart,
  bringSound,
  frameRate,
  freshId,
  get,
  linesOf,
  listen,
  stopListening,
  submit,
  useLine,
  useWorkshop,
  type Line,
  pickOut,
} from "../../session";
import { IconButton } from "../../ui/bits";
import { NumberRow, SwitchRow, TextField } from "../../ui/fields";
import { Fold } from "../../ui/Fold";
import { Menu } from "../../ui/Menu";
import { Row, Rows } from "../../ui/Rows";
import type { Motion, Voice } from "../../wire/types";
import { testLine } from "./commands";
import { Select } from "../../ui/Select";

export function LinesPanel({ motion }: { motion: Motion }) {
  const documents = useWorkshop((w) => w.documents);
  const chosen = useWorkshop((w) => w.line);
  const lines = linesOf({ documents, motion: motion.id });
  const here = new Set(lines.map((l) => l.voice.id));
  const others = Object.values(documents).filter((d): d is Voice => d.kind === "voice" && !here.has(d.id));
  const input = useRef<HTMLInputElement>(null);
  return (
    <section className="card-sheet" aria-label="Lines">
      <div className="d-flex align-items-center mb-1">
        <h2 className="heading flex-grow-1">Lines</h2>
        <IconButton
          icon="clipboard-check"
          label="Test line: speaks every mouth of the set once"
          text="Test"
          onClick={() => void testLine()}
        />
        {others.length > 0 && (
          <Menu
            label="Place another line of the production here"
            align="end"
            entries={others.map((v) => ({
              key: v.id,
              text: `Place “${v.name}” here`,
              run: () =>
                void submit({
                  do: "place-sound",
                  motion: motion.id,
                  sound: { id: freshId(), voice: v.id, at: Math.round((1000 * get().frame) / frameRate(get())) / 1000 },
                }),
            }))}
          >
            Others
          </Menu>
        )}
        <IconButton icon="plus-lg" label="Bring in a sound" text="Sound" onClick={() => input.current?.click()} />
      </div>
      <input
        ref={input}
        type="file"
        accept={SOUNDS}
        multiple
        hidden
        aria-label="Sound files"
        onChange={(e) => {
          if (e.target.files?.length) void bring([...e.target.files], motion.id);
          e.target.value = "";
        }}
      />
      {lines.length > 0 ? (
        <Rows
          kind="listbox"
          label="Lines on this motion"
          ids={lines.map((l) => l.placed.id)}
          chosen={chosen ? [chosen] : []}
          choose={(id) => pickOut({ line: id, entry: null })}
        >
          {lines.map((l) => (
            <Row key={l.placed.id} id={l.placed.id} chosen={l.placed.id === chosen}>
              <i className={`bi bi-${l.voice.sound ? "soundwave" : "chat"}`} aria-hidden="true" />
              <span className="name">{l.voice.name}</span>
              <span className="faint small">{l.placed.at.toFixed(2)} s</span>
              <IconButton
                quiet
                icon={l.placed.mute ? "volume-mute" : "volume-up"}
                label={l.placed.mute ? `Let ${l.voice.name} be heard` : `Mute ${l.voice.name}`}
                onClick={(e) => {
                  e.stopPropagation();
                  void submit({
                    do: "place-sound",
                    motion: motion.id,
                    sound: { id: l.placed.id, mute: !l.placed.mute },
                  });
                }}
              />
            </Row>
          ))}
        </Rows>
      ) : (
        <p className="hint m-0">Bring in a recording (WAV, FLAC, OGG, MP3, or a film), or drop it on the ribbon.</p>
      )}
    </section>
  );
}

export function LinePanel({ motion }: { motion: Motion }) {
  const line = useLine();
  if (!line) return null;
  return (
    <>
      <TextPanel key={line.voice.id} line={line} />
      <HeardPanel line={line} motion={motion} />
    </>
  );
}

function TextPanel({ line }: { line: Line }) {
  const { voice } = line;
  const listening = useWorkshop((w) => w.listening[voice.id]);
  const production = useWorkshop((w) => w.id);
  const languages = useQuery({ queryKey: ["languages"], queryFn: http.languages, staleTime: Infinity });
  const [text, setText] = useState<string | null>(null);
  const [language, setLanguage] = useState(voice.language);
  useEffect(() => setLanguage(voice.language), [voice.language]);
  const input = useRef<HTMLInputElement>(null);
  const dropped = useRef(false);
  const written = text ?? voice.text;
  const keepText = () => {
    if (dropped.current) {
      dropped.current = false;
      return;
    }
    // What was typed stays in sight until it is saved: the button beside it may be what was left for.
    if (text === null || text === voice.text) setText(null);
    else
      void submit({ do: "set-voice", voice: voice.id, text }).then(() => setText((now) => (now === text ? null : now)));
  };
  const guessed = [
    ...new Set(
      Object.values(voice.chart?.words ?? {})
        .filter((w) => w.guessed && w.text)
        .map((w) => w.text!.toLowerCase()),
    ),
  ];
  const has = Object.keys(voice.chart?.phones ?? {}).length > 0;
  return (
    <Fold title="What is said" note={CHART_OF[voice.chart?.source]}>
      <label className="visually-hidden" htmlFor="line-text">
        Text of the line
      </label>
      <textarea
        id="line-text"
        className="form-control form-control-sm"
        rows={3}
        placeholder="Type just what is said"
        value={written}
        onChange={(e) => setText(e.target.value)}
        onBlur={keepText}
        onKeyDown={(e) => {
          if (e.key === "Escape") {
            dropped.current = true;
            setText(null);
            e.currentTarget.blur();
          }
        }}
      />
      <div className="d-flex gap-1 my-1 align-items-center">
        <Select size="sm" aria-label="Language" value={language} onChange={(e) => setLanguage(e.target.value)}>
          {(languages.data ?? [{ code: language, name: language }]).map((l) => (
            <option key={l.code} value={l.code}>
              {l.name}
            </option>
          ))}
        </Select>
      </div>
      {listening ? (
        <div className="d-flex align-items-center gap-2" role="status" aria-live="polite">
          <div className="flex-grow-1">
            <ProgressBar now={100 * listening.part} />
            <span className="small faint">
              {listening.what} · {Math.round(100 * listening.part)} %
            </span>
          </div>
          <Button size="sm" variant="outline-primary" onClick={() => void stopListening(voice.id)}>
            Cancel
          </Button>
        </div>
      ) : (
        <div className="d-flex gap-1 align-items-center">
          <Button
            size="sm"
            disabled={!voice.sound}
            variant={has ? "outline-primary" : "primary"}
            onClick={() => {
              void listen(voice.id, written, language);
            }}
          >
            {written.trim() ? "Find the sounds" : "By loudness alone"}
          </Button>
          <span className="flex-grow-1" />
          <Menu
            label="The chart as a file"
            align="end"
            entries={[
              voice.sound &&
                written.trim() !== "" && {
                  text: "Lay the words out by length, to drag by hand",
                  run: () => void listen(voice.id, written, language, true),
                },
              { text: "Read a TextGrid or CSV…", run: () => input.current?.click() },
              has && "line",
              ...(["long", "short", "csv"] as const).map(
                (f) =>
                  has && {
                    text: SAVED_AS[f],
                    run: () => window.location.assign(http.chartFile(production, voice.id, f)),
                  },
              ),
            ]}
          >
            Chart
          </Menu>
        </div>
      )}
      <input
        ref={input}
        type="file"
        hidden
        accept=".TextGrid,.textgrid,.csv,.txt"
        aria-label="Chart file"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void bringChart(voice.id, file);
          e.target.value = "";
        }}
      />
      {voice.chart?.note && <p className="hint mb-0 mt-1">{voice.chart.note}</p>}
      {guessed.map((word) => (
        <Spoken key={word} word={word} line={line} />
      ))}
    </Fold>
  );
}

const CHART_OF: Record<string, string> = {
  none: "no chart",
  text: "by its text",
  voice: "less exact",
  loudness: "rough",
  hand: "by hand",
  file: "from a file",
};
const SAVED_AS = { long: "Save as long TextGrid", short: "Save as short TextGrid", csv: "Save as CSV" };

/** How a word is said that no dictionary has. */
function Spoken({ word, line }: { word: string; line: Line }) {
  const id = `said-${word}`;
  return (
    <div className="fields mt-1">
      <label htmlFor={id}>“{word}” is said</label>
      <TextField
        id={id}
        value={line.voice.spoken?.[word] ?? ""}
        placeholder="ARPAbet or IPA"
        title="Sounds in ARPAbet parted by spaces, or in IPA; then find the sounds again"
        longest={200}
        onCommit={(said) => void submit({ do: "set-voice", voice: line.voice.id, spoken: { [word]: said || null } })}
      />
    </div>
  );
}

function HeardPanel({ line, motion }: { line: Line; motion: Motion }) {
  const { placed, voice } = line;
  const input = useRef<HTMLInputElement>(null);
  const place = (given: Partial<typeof placed>) =>
    void submit({ do: "place-sound", motion: motion.id, sound: { id: placed.id, ...given } });
  return (
    <Fold title="How it is heard" open={false} note={voice.sound ? `${voice.sound.seconds.toFixed(2)} s` : "no sound"}>
      <div className="fields">
        <NumberRow
          id="line-at"
          label="Begins at"
          of="Placed.at"
          value={placed.at}
          unit="s"
          digits={3}
          onCommit={(at) => place({ at })}
        />
        <NumberRow
          id="line-level"
          label="Level"
          of="Placed.level"
          value={placed.level}
          unit="dB"
          onCommit={(level) => place({ level })}
        />
        <NumberRow
          id="line-in"
          label="Fades in over"
          of="Placed.fade_in"
          value={placed.fade_in}
          unit="s"
          digits={2}
          onCommit={(fade_in) => place({ fade_in })}
        />
        <NumberRow
          id="line-out"
          label="Fades out over"
          of="Placed.fade_out"
          value={placed.fade_out}
          unit="s"
          digits={2}
          onCommit={(fade_out) => place({ fade_out })}
        />
        <SwitchRow
          id="line-mute"
          label="Mute"
          text="not heard"
          checked={placed.mute}
          onChange={(mute) => place({ mute })}
        />
      </div>
      {(voice.sound?.said ?? []).map((said) => (
        <p key={said} className="hint mb-0">
          {said}
        </p>
      ))}
      <input
        ref={input}
        type="file"
        hidden
        accept={SOUNDS}
        aria-label="New sound"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void bringSound(file, { voice: voice.id });
          e.target.value = "";
        }}
      />
      <div className="d-flex gap-1 mt-1">
        <Button size="sm" variant="outline-primary" onClick={() => input.current?.click()}>
          Replace…
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          title="It is heard here no more; the line itself stays"
          onClick={() => void submit({ do: "lift-sound", motion: motion.id, sound: placed.id })}
        >
          Take off
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          title="Take the line away with its chart; mouths that were made stay"
          onClick={() => void submit({ do: "remove-voice", voice: voice.id })}
        >
          Remove
        </Button>
      </div>
    </Fold>
  );
}
