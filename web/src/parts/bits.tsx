/** Small things used all over the page. */
import { useEffect, useRef, useState, type ReactNode } from "react";
import { OverlayTrigger, Tooltip } from "react-bootstrap";
import type { Side } from "../wire/types";
import { painter, type Painter } from "../stage/painter";
import { spell } from "../state/shortcuts";

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

export function IconButton({ icon, label, keys, text, pressed, disabled, quiet, onClick }: IconButtonProps) {
  const tip = (
    <Tooltip>
      {label}
      {keys && <span className="key-cap ms-2 text-dark bg-white">{spell(keys)}</span>}
    </Tooltip>
  );
  return (
    <OverlayTrigger placement="bottom" delay={{ show: 500, hide: 0 }} overlay={tip}>
      <button
        type="button"
        className={`icon-btn${quiet ? " quiet" : ""}`}
        aria-label={label}
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

interface NumberFieldProps {
  id: string;
  /** For a field that no label on the page names. */
  label?: string;
  value: number;
  unit: string;
  digits?: number;
  min?: number;
  max?: number;
  /** Whether entering the number that is shown already means something: keying it here, say. */
  always?: boolean;
  onCommit: (value: number) => void;
}

/** A number with its unit: typed and entered, or stepped with the arrow keys. */
export function NumberField({ id, label, value, unit, digits = 1, min, max, always, onCommit }: NumberFieldProps) {
  const shown = String(Number(value.toFixed(digits)));
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  const commit = (raw: string, entered = false) => {
    const number = Number(raw.replace(",", "."));
    const fits =
      raw.trim() !== "" &&
      Number.isFinite(number) &&
      (min === undefined || number >= min) &&
      (max === undefined || number <= max);
    setWrong(!fits);
    if (!fits) return;
    setText(null);
    if (number !== Number(shown) || (always && entered)) onCommit(number);
  };
  return (
    <div className="num">
      <input
        id={id}
        className={`form-control form-control-sm${wrong ? " is-invalid" : ""}`}
        inputMode="decimal"
        aria-label={label}
        value={text ?? shown}
        aria-invalid={wrong}
        title={
          wrong
            ? `A number${min !== undefined ? ` from ${min}` : ""}${max !== undefined ? ` to ${max}` : ""} is needed`
            : undefined
        }
        onChange={(e) => setText(e.target.value)}
        onFocus={(e) => e.target.select()}
        onBlur={() => {
          if (text !== null) commit(text);
          setText(null);
          setWrong(false);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") commit(text ?? shown, true);
          if (e.key === "Escape") {
            setText(null);
            setWrong(false);
          }
          if (e.key === "ArrowUp" || e.key === "ArrowDown") {
            e.preventDefault();
            const step = (e.key === "ArrowUp" ? 1 : -1) * (e.shiftKey ? 10 : 1);
            commit(String(Number(text ?? shown) + step));
          }
        }}
      />
      <span className="unit">{unit}</span>
    </div>
  );
}

/** A 2-D canvas painted by the puppet's own painter. */
export function Painted({
  width,
  height,
  className,
  paint,
  watch,
}: {
  width: number;
  height: number;
  className?: string;
  paint: (p: Painter) => ImageData | null;
  watch: unknown[];
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    let live = true;
    const timer = setTimeout(() => {
      void painter().then((p) => {
        const data = live ? paint(p) : null;
        if (data && canvas.current) canvas.current.getContext("2d")!.putImageData(data, 0, 0);
      });
    }, 30);
    return () => {
      live = false;
      clearTimeout(timer);
    };
    // The caller says what the picture depends on.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, watch);
  return <canvas ref={canvas} width={width} height={height} className={className} aria-hidden="true" />;
}

export function PanelHead({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="panel-head">
      <h2 className="heading">{title}</h2>
      {children}
    </div>
  );
}
