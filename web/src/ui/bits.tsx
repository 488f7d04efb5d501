/** Small things used all over the page. */
import type { ReactNode } from "react";
import { OverlayTrigger, Tooltip } from "react-bootstrap";
import type { Side } from "../wire/types";
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

export function PanelHead({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="panel-head">
      <h2 className="heading">{title}</h2>
      {children}
    </div>
  );
}
