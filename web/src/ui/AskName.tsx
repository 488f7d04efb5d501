/** A small dialog that asks for a name, or another short text, and does what its button says. */
import { useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";

interface Props {
  title: string;
  start: string;
  label?: string;
  button?: string;
  /** Whether the text will do; what is said beside it when it will not. */
  right?: (text: string) => boolean;
  wrong?: string;
  close: () => void;
  done: (text: string) => void;
}

const some = (text: string) => text.trim() !== "";

export function AskName({
  title,
  start,
  label = "Name",
  button = title,
  right = some,
  wrong = "A name is needed.",
  close,
  done,
}: Props) {
  const [name, setName] = useState(start);
  const [tried, setTried] = useState(false);
  const finish = (event: React.FormEvent) => {
    event.preventDefault();
    setTried(true);
    if (!right(name)) return;
    done(name.trim());
    close();
  };
  const shown = tried && !right(name);
  return (
    <Modal show onHide={close} size="sm" aria-labelledby="ask-title">
      <Form onSubmit={finish}>
        <Modal.Header closeButton>
          <Modal.Title id="ask-title">{title}</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          <Form.Label htmlFor="ask-name">{label}</Form.Label>
          <Form.Control
            id="ask-name"
            autoFocus
            maxLength={120}
            value={name}
            onFocus={(e) => e.target.select()}
            isInvalid={shown}
            aria-describedby={shown ? "ask-wrong" : undefined}
            onChange={(e) => setName(e.target.value)}
          />
          {shown && (
            <p id="ask-wrong" className="wrong" role="alert">
              {wrong}
            </p>
          )}
        </Modal.Body>
        <Modal.Footer>
          <Button type="submit">{button}</Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}
