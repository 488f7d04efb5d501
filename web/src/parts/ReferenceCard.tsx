/** The picture or sequence laid under the work. */
import { Button, Form } from "react-bootstrap";
import type { Puppet, Reference } from "../wire/types";
import { submit } from "../session";
import { IconButton } from "../ui/bits";
import { NumberField, Slider } from "../ui/fields";
import { Fold } from "../ui/Fold";

export function ReferenceCard({ puppet, choose }: { puppet: Puppet; choose: () => void }) {
  const laid = puppet.reference;
  const put = (given: Partial<Reference>) =>
    laid && void submit({ do: "set-reference", puppet: puppet.id, reference: given });
  return (
    <Fold
      title="Reference"
      note={laid ? (laid.pictures.length > 1 ? `${laid.pictures.length} pictures` : "1 picture") : "none"}
      open={!!laid}
    >
      {laid ? (
        <>
          <Form.Label className="faint small mb-0" htmlFor="ref-opacity">
            Opacity: {Math.round(laid.opacity * 100)} %
          </Form.Label>
          <Slider
            id="ref-opacity"
            of="Reference.opacity"
            times={100}
            value={laid.opacity}
            onCommit={(v) => put({ opacity: v })}
          />
          <div className="fields">
            <label htmlFor="ref-x">Across</label>
            <NumberField id="ref-x" value={laid.x} unit="u" onCommit={(x) => put({ x })} />
            <label htmlFor="ref-y">Down</label>
            <NumberField id="ref-y" value={laid.y} unit="u" onCommit={(y) => put({ y })} />
            {laid.pictures.length > 1 && (
              <>
                <label htmlFor="ref-offset">Begins at</label>
                <NumberField
                  id="ref-offset"
                  value={laid.offset + 1}
                  unit="picture"
                  digits={0}
                  onCommit={(v) => put({ offset: Math.round(v) - 1 })}
                />
              </>
            )}
            <label htmlFor="ref-scale">Size</label>
            <NumberField
              id="ref-scale"
              of="Reference.scale"
              times={100}
              value={laid.scale}
              unit="%"
              onCommit={(v) => put({ scale: v })}
            />
          </div>
          <div className="d-flex gap-1 mt-2">
            <IconButton
              quiet
              icon={laid.hidden ? "eye-slash" : "eye"}
              label={laid.hidden ? "Show the reference" : "Hide the reference"}
              onClick={() => put({ hidden: !laid.hidden })}
            />
            <Button
              size="sm"
              variant="outline-primary"
              title="Put it to the right of where it lies now, by its own width"
              onClick={() => put({ x: laid.x + laid.width * laid.scale })}
            >
              Beside
            </Button>
            <Button size="sm" variant="outline-primary" onClick={choose}>
              Another…
            </Button>
            <IconButton
              quiet
              icon="trash"
              label="Take the reference away"
              onClick={() => void submit({ do: "set-reference", puppet: puppet.id, reference: null })}
            />
          </div>
        </>
      ) : (
        <>
          <p className="hint mt-0">
            A model sheet, a picture sequence or a film to work over, in step with the frames. It is never rendered.
          </p>
          <Button size="sm" variant="outline-primary" onClick={choose}>
            Lay a picture…
          </Button>
        </>
      )}
    </Fold>
  );
}
