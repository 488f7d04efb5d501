import { useEffect, useLayoutEffect, useRef } from "react";
import { carefully } from "../ui/carefully";
import { whenIdle } from "../ui/idle";
import { usePixelRatio } from "../ui/ratio";
import { painter, type Painter } from "./painter";

/** A 2-D canvas painted by the puppet's own painter. */
export function Painted({
  width,
  height,
  className,
  paint,
  watch,
  now = false,
}: {
  width: number;
  height: number;
  className?: string;
  /** What is painted, in pixels of the page; `pixels` makes as many of the screen. */
  paint: (p: Painter) => ImageData | null;
  watch: unknown[];
  /** At once, for what a hand waits for; else when there is time. */
  now?: boolean;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const ratio = usePixelRatio();
  const [wide, high] = [Math.round(width * ratio), Math.round(height * ratio)];
  // A hand is not kept waiting until the page has been laid out.
  const effect = now ? useLayoutEffect : useEffect;
  effect(() => {
    let live = true;
    let stop = () => {};
    void painter().then((p) => {
      const put = () =>
        carefully(() => {
          const data = paint(p);
          if (data && canvas.current) canvas.current.getContext("2d")!.putImageData(data, 0, 0);
        });
      if (!live) return;
      if (now) put();
      else stop = whenIdle(put);
    });
    return () => {
      live = false;
      stop();
    };
    // The caller says what the picture depends on.
  }, [...watch, ratio]);
  return (
    <canvas
      ref={canvas}
      width={wide}
      height={high}
      style={{ width, height }}
      className={className}
      aria-hidden="true"
    />
  );
}
