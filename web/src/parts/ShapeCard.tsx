/** Fill and line of a shape drawn here: of the selected one, or of the next. */
import { FILL, LINE, WHITE } from "../ui/paints";
import { Form } from "react-bootstrap";
import type { Shape } from "../wire/types";
import { ColourField } from "./ColourField";
import { NumberField } from "../ui/fields";
import { Fold } from "../ui/Fold";

export type ShapePaint = Pick<Shape, "fill" | "stroke" | "width">;

export function ShapeCard({
  title,
  paint,
  change,
  children,
}: {
  title: string;
  paint: ShapePaint;
  change: (given: Partial<ShapePaint>) => void;
  children?: React.ReactNode;
}) {
  const colour = (which: "fill" | "stroke", label: string) => (
    <>
      <span className="faint">{label}</span>
      <div className="d-flex gap-2 align-items-center">
        <Form.Check
          id={`shape-${which}`}
          aria-label={`Has a ${label.toLowerCase()}`}
          checked={!!paint[which]}
          onChange={(e) => change({ [which]: e.target.checked ? (which === "fill" ? FILL : LINE) : null })}
        />
        <ColourField
          label={`${label} colour`}
          disabled={!paint[which]}
          value={paint[which] ?? WHITE}
          onCommit={(colour) => change({ [which]: colour })}
        />
      </div>
    </>
  );
  return (
    <Fold title={title}>
      <div className="fields">
        {colour("fill", "Fill")}
        {colour("stroke", "Line")}
        <label htmlFor="shape-width">Width</label>
        <NumberField
          id="shape-width"
          of="EditableShape.width"
          value={paint.width}
          unit="u"
          onCommit={(width) => change({ width })}
        />
      </div>
      {children}
    </Fold>
  );
}
