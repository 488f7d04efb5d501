/** Asks whether a motion is to be as long as a line needs that was brought in. */
import { Button, Modal } from "react-bootstrap";
import { freshId, see, submit, useMotion, useWorkshop } from "../session";

export function FitToLine() {
  const long = useWorkshop((w) => w.longLine);
  const motion = useMotion();
  if (!long || !motion || motion.id !== long.motion) return null;
  const { sound, name, frames } = long;
  const close = () => see({ longLine: null });
  const own = motion.cycle;
  const fit = () => {
    close();
    void submit({ do: "fit-to-line", motion: motion.id, sound, own: own ? freshId() : null });
  };
  return (
    <Modal show onHide={close} aria-labelledby="fit-title">
      <Modal.Header closeButton>
        <Modal.Title id="fit-title">{own ? "A motion of its own for the line?" : "As long as the line?"}</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        “{name}” needs {frames} frames, and “{motion.name}” has {motion.length}.{" "}
        {own
          ? "A cycle stays as long as it is: the line can have a motion of its own instead."
          : "What comes after its end would not be heard."}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="outline-primary" onClick={close}>
          Leave it
        </Button>
        <Button autoFocus onClick={fit}>
          {own ? "Make a motion for it" : `Make it ${frames} frames long`}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
