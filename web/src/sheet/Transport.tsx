/** Playing, and the frame that shows. */
import { memo, useState } from "react";
import { SPEEDS, goTo, toggle, toKey, useWorkshop, see } from "../session";
import { IconButton } from "../ui/bits";
import { Menu } from "../ui/Menu";
import type { Timeline } from "./timeline";

/** With cards, the keys that go from one to the next go from key to key with Shift. */
export const Transport = memo(function Transport({ length, cards }: { length: number; cards?: boolean }) {
  const loop = useWorkshop((w) => w.loop);
  const playing = useWorkshop((w) => w.playing);
  return (
    <>
      <IconButton icon="skip-start-fill" label="To the start" keys="Home" onClick={() => goTo(0)} />
      <IconButton
        icon="chevron-bar-left"
        label="To the key before"
        keys={cards ? "Shift+," : ","}
        onClick={() => toKey(-1)}
      />
      <IconButton
        icon={playing ? "pause-fill" : "play-fill"}
        label={playing ? "Pause" : "Play"}
        keys=" "
        onClick={toggle}
      />
      <IconButton
        icon="chevron-bar-right"
        label="To the next key"
        keys={cards ? "Shift+." : "."}
        onClick={() => toKey(1)}
      />
      <IconButton icon="repeat" label="Play round and round" pressed={loop} onClick={() => see({ loop: !loop })} />
      <FrameField length={length} />
    </>
  );
});

/** How fast it plays. */
export function SpeedMenu() {
  const speed = useWorkshop((w) => w.speed);
  return (
    <Menu
      label={`Speed: ${speed * 100} %`}
      entries={SPEEDS.map((s) => ({
        key: String(s),
        text: `${s * 100} %`,
        chosen: s === speed,
        run: () => see({ speed: s }),
      }))}
    >
      {speed * 100} %
    </Menu>
  );
}

/** Wider and narrower frames. */
export function ZoomButtons({ time }: { time: Timeline }) {
  return (
    <>
      <IconButton
        icon="dash-lg"
        label="Narrower frames"
        disabled={time.zoom <= 1}
        onClick={() => time.zoomBy(1 / 1.5)}
      />
      <IconButton icon="plus-lg" label="Wider frames" onClick={() => time.zoomBy(1.5)} />
    </>
  );
}

function FrameField({ length }: { length: number }) {
  const frame = useWorkshop((w) => w.frame);
  const [text, setText] = useState<string | null>(null);
  const wrong = text !== null && text.trim() !== "" && !Number.isFinite(Number(text));
  return (
    <label className="d-flex align-items-center gap-1 ms-1">
      <span className="faint small">Frame</span>
      <input
        className={`form-control form-control-sm frame${wrong ? " is-invalid" : ""}`}
        aria-label="Frame"
        aria-invalid={wrong}
        title={wrong ? `A frame from 1 to ${length} is needed.` : undefined}
        inputMode="numeric"
        value={text ?? frame + 1}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => setText(null)}
        onKeyDown={(e) => {
          // What is no number stands until it is one; else the keys are the bench's again.
          if (e.key === "Enter" && text !== null && !Number.isFinite(Number(text || NaN))) return;
          if (e.key === "Enter" && text !== null) goTo(Math.round(Number(text)) - 1);
          if (e.key === "Enter" || e.key === "Escape") e.currentTarget.blur();
        }}
      />
      <span className="faint small">of {length}</span>
    </label>
  );
}
