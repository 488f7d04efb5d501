/** The sound of a line as it looks: its peaks over the frames, drawn at the zoom that fits. */
import { token, useTheme } from "../ui/tokens";
import { useEffect, useRef, useState } from "react";
import { peaksOf, type Laid } from "../session";
import { SOUND_RATE, type Peaks } from "../session/sounding";
import type { Timeline } from "../sheet/timeline";

/** The peaks of a line's sound, once they are here. */
export function usePeaks(asset: string | undefined): Peaks | null {
  const [found, setFound] = useState<{ asset: string; peaks: Peaks } | null>(null);
  useEffect(() => {
    let live = true;
    if (asset)
      void peaksOf(asset).then(
        (peaks) => live && setFound({ asset, peaks }),
        () => undefined,
      );
    return () => {
      live = false;
    };
  }, [asset]);
  return found && found.asset === asset ? found.peaks : null;
}

/** For each pixel across the lowest and highest sample, -1 to 1; nothing where there is no sound. */
export function columns(peaks: Peaks, from: number, perPixel: number, width: number): Float32Array {
  const samples = perPixel * SOUND_RATE;
  const zoom = peaks.zooms.findLast((z) => z.size <= samples) ?? peaks.zooms[0]!;
  const found = new Float32Array(2 * width).fill(NaN);
  const count = zoom.pairs.length / 2;
  for (let x = 0; x < width; x++) {
    const begin = Math.floor(((from + x * perPixel) * SOUND_RATE) / zoom.size);
    const end = Math.max(begin + 1, Math.floor(((from + (x + 1) * perPixel) * SOUND_RATE) / zoom.size));
    let [low, high] = [127, -127];
    for (let n = Math.max(begin, 0); n < Math.min(end, count); n++) {
      low = Math.min(low, zoom.pairs[2 * n]!);
      high = Math.max(high, zoom.pairs[2 * n + 1]!);
    }
    if (high >= low) {
      found[2 * x] = low / 127;
      found[2 * x + 1] = high / 127;
    }
  }
  return found;
}

export function Waveform({
  lines,
  chosen,
  time,
  rate,
  height,
}: {
  lines: readonly Laid[];
  chosen: string | null;
  time: Timeline;
  rate: number;
  height: number;
}) {
  return (
    <div className="wave" style={{ height }}>
      {lines.map((line) => (
        <OneWave
          key={line.placed.id}
          line={line}
          chosen={line.placed.id === chosen}
          time={time}
          rate={rate}
          height={height}
        />
      ))}
    </div>
  );
}

function OneWave({
  line,
  chosen,
  time,
  rate,
  height,
}: {
  line: Laid;
  chosen: boolean;
  time: Timeline;
  rate: number;
  height: number;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const peaks = usePeaks(line.voice.sound?.peaks);
  const { placed } = line;
  const theme = useTheme();
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const ratio = window.devicePixelRatio || 1;
    element.width = Math.round(time.room * ratio);
    element.height = Math.round(height * ratio);
    const c = element.getContext("2d")!;
    c.scale(ratio, ratio);
    if (!peaks) return;
    const perPixel = 1 / (time.step * rate);
    const found = columns(peaks, time.scroll * perPixel - placed.at, perPixel, Math.ceil(time.room));
    c.fillStyle = token(chosen ? "wave" : "wave-other");
    c.globalAlpha = placed.mute ? 0.3 : 1;
    const [middle, half] = [height / 2, height / 2 - 3];
    for (let x = 0; x < found.length / 2; x++) {
      const [low, high] = [found[2 * x]!, found[2 * x + 1]!];
      if (Number.isNaN(low)) continue;
      const top = middle - high * half;
      c.fillRect(x, top, 1, Math.max(1, middle - low * half - top));
    }
  }, [peaks, time.scroll, time.step, time.room, rate, height, chosen, placed.at, placed.mute, theme]);
  return <canvas ref={canvas} style={{ width: time.room, height }} aria-hidden="true" />;
}
