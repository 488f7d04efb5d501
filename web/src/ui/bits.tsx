/** Small things used all over the page. */
import { useEffect, useLayoutEffect, useRef, type ReactNode } from "react";
import { OverlayTrigger, Tooltip } from "react-bootstrap";
import type { Side } from "../wire/types";
import { painter, type Painter } from "../stage/painter";
import { carefully } from "./carefully";
import { whenIdle } from "./idle";
import { usePixelRatio } from "./ratio";
import { keyNow, spell } from "./shortcuts";

/**
 * A side as a shape as well as a colour: a flag to the left, a flag to the right, a disc. Letters of
 * the icon font, because there are hundreds on a page and each drawing would be a layer of its own.
 */
export function SideMark({ side }: { side: Side | undefined }) {
  const shape = { left: "caret-left-fill", right: "caret-right-fill", centre: "circle-fill" }[side ?? "centre"];
  return <i className={`bi bi-${shape} side-mark side-${side ?? "centre"}`} role="img" aria-label={side ?? "centre"} />;
}

interface IconButtonProps {
  icon: string;
  label: string;
  keys?: string;
  text?: string;
  pressed?: boolean;
  disabled?: boolean;
  quiet?: boolean;
  onClick: (event: React.MouseEvent) => void;
}

/** A name that has what is seen in it, so that one can call for it (WCAG 2.5.3). */
export const named = (label: string, seen: string | undefined): string =>
  !seen || label.toLowerCase().includes(seen.toLowerCase()) ? label : `${seen}: ${label}`;

/** The key that does it, as the tip of a button tells it when it comes up. */
const KeyCap = ({ of }: { of: string }) => <span className="key-cap ms-2 text-dark bg-white">{spell(keyNow(of))}</span>;

export function IconButton({ icon, label, keys, text, pressed, disabled, quiet, onClick }: IconButtonProps) {
  const tip = (
    <Tooltip>
      {label}
      {keys && <KeyCap of={keys} />}
    </Tooltip>
  );
  return (
    <OverlayTrigger placement="bottom" delay={{ show: 500, hide: 0 }} overlay={tip}>
      <button
        type="button"
        className={`icon-btn${quiet ? " quiet" : ""}`}
        aria-label={named(label, text)}
        aria-pressed={pressed}
        disabled={disabled}
        onClick={onClick}
      >
        <i className={`bi bi-${icon}`} aria-hidden="true" />
        {text && <span>{text}</span>}
      </button>
    </OverlayTrigger>
  );
}

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

export function PanelHead({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="panel-head">
      <h2 className="heading">{title}</h2>
      {children}
    </div>
  );
}
