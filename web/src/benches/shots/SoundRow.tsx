/** What is heard in a shot, on one of its rows. */
import { useShown } from "../../ui/shown";
import { frameRate, get, submit, useWorkshop, type Line, pickOut } from "../../session";
import { Waveform } from "../../ribbon/Waveform";
import { type Timeline } from "../../sheet/timeline";
import { usePull } from "../../ui/pull";
import type { HeardSound, Shot } from "../../wire/types";

export function SoundRow({ shot, row, time }: { shot: Shot; row: number; time: Timeline }) {
  const documents = useWorkshop((w) => w.documents);
  const picked = useWorkshop((w) => (w.picked?.kind === "sound" ? w.picked.id : null));
  const rate = frameRate({ documents });
  const sounds = Object.values(shot.sounds ?? {}).filter((s) => s.row === row);
  const lines: Line[] = sounds.flatMap((placed) => {
    const voice = documents[placed.voice];
    return voice?.kind === "voice" ? [{ placed, voice }] : [];
  });
  return (
    <div className="shot-row sound">
      <div className="row-head">
        <i className="bi bi-volume-up" aria-hidden="true" />
        <span className="flex-grow-1 text-truncate">Sound {row + 1}</span>
      </div>
      <div className="lane">
        <Waveform lines={lines} chosen={picked} time={time} rate={rate} height={34} />
        {lines.map((l) => (
          <SoundBar key={l.placed.id} shot={shot} line={l} time={time} rate={rate} chosen={picked === l.placed.id} />
        ))}
      </div>
    </div>
  );
}

function SoundBar({
  shot,
  line,
  time,
  rate,
  chosen,
}: {
  shot: Shot;
  line: Line;
  time: Timeline;
  rate: number;
  chosen: boolean;
}) {
  const { shown: off, show, settle } = useShown(0, line.placed);
  const placed = line.placed as HeardSound;
  const at = placed.at;
  const nudge = (by: number) => submit({ do: "nudge-heard", shot: shot.id, sound: placed.id, by });
  const pull = usePull<HTMLButtonElement>((event) => {
    event.stopPropagation();
    const from = event.clientX;
    pickOut({ picked: { kind: "sound", id: placed.id }, shotKeys: [] });
    return {
      move: (e) => show(e.clientX - from),
      end: (e) => {
        const moved = e.clientX - from;
        settle(Math.abs(moved) > 3 ? nudge(moved / time.step / rate) : null);
      },
      cancel: () => settle(),
    };
  });
  const seconds = line.voice.sound?.seconds ?? 0;
  return (
    <button
      type="button"
      className={`sound-bar${chosen ? " chosen" : ""}`}
      style={{ left: at * rate * time.step - time.scroll + off, width: Math.max(6, seconds * rate * time.step) }}
      aria-label={`${line.voice.name}, from ${at.toFixed(2)} seconds`}
      aria-pressed={chosen}
      onKeyDown={(e) => {
        if (!e.altKey || (e.key !== "ArrowLeft" && e.key !== "ArrowRight")) return;
        e.preventDefault();
        e.stopPropagation();
        nudge((e.key === "ArrowLeft" ? -1 : 1) / rate);
      }}
      onClick={() => get().picked?.kind !== "sound" && pickOut({ picked: { kind: "sound", id: placed.id } })}
      {...pull}
    >
      <span>{line.voice.name}</span>
    </button>
  );
}
