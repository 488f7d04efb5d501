/** Something that can't be undone is asked for once more. */
import type { ReactNode } from "react";
import { Button, Modal } from "react-bootstrap";

interface AskedProps {
  title: string;
  /** What it would mean. */
  children: ReactNode;
  keep: string;
  go: string;
  close: () => void;
  run: () => void;
}

export function Asked({ title, children, keep, go, close, run }: AskedProps) {
  return (
    <Modal show onHide={close} aria-labelledby="asked-title">
      <Modal.Header closeButton>
        <Modal.Title id="asked-title">{title}</Modal.Title>
      </Modal.Header>
      <Modal.Body>{children}</Modal.Body>
      <Modal.Footer>
        <Button variant="outline-primary" onClick={close}>
          {keep}
        </Button>
        <Button
          variant="danger"
          onClick={() => {
            close();
            run();
          }}
        >
          {go}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
