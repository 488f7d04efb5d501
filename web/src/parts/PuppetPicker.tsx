/** Which puppet is on the bench, and making, renaming and removing puppets. */
import { useState } from "react";
import { Button, Dropdown, Form, Modal } from "react-bootstrap";
import { allPuppets, freshId, set, submit, usePuppet, useWorkshop } from "../session";

export async function addPuppet(name: string): Promise<string | null> {
  const id = freshId();
  const done = await submit({ do: "add-puppet", id, name });
  if (!done) return null;
  set({ puppet: id, pieces: [], joint: null });
  return id;
}

export function PuppetPicker() {
  const puppet = usePuppet();
  const documents = useWorkshop((w) => w.documents);
  const [asking, setAsking] = useState<"new" | "name" | null>(null);
  const choose = (id: string) =>
    set({ puppet: id, motion: null, pieces: [], joint: null, keys: [], frame: 0, pose: null });
  return (
    <>
      <Dropdown className="card-sheet">
        <Dropdown.Toggle
          variant="link"
          className="w-100 text-start text-decoration-none d-flex align-items-center heading"
          style={{ color: "var(--ink)" }}
        >
          <span className="flex-grow-1 text-truncate">{puppet?.name ?? "No puppet yet"}</span>
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {allPuppets(documents).map((p) => (
            <Dropdown.Item key={p.id} active={p.id === puppet?.id} onClick={() => choose(p.id)}>
              {p.name} <span className="small opacity-75">{Object.keys(p.pieces ?? {}).length} pieces</span>
            </Dropdown.Item>
          ))}
          <Dropdown.Divider />
          <Dropdown.Item onClick={() => setAsking("new")}>New puppet…</Dropdown.Item>
          {puppet && <Dropdown.Item onClick={() => setAsking("name")}>Rename “{puppet.name}”…</Dropdown.Item>}
          {puppet && (
            <Dropdown.Item onClick={() => void submit({ do: "remove-puppet", puppet: puppet.id })}>
              Remove “{puppet.name}” with its motions
            </Dropdown.Item>
          )}
        </Dropdown.Menu>
      </Dropdown>
      {asking && (
        <AskName
          title={asking === "new" ? "New puppet" : "Rename puppet"}
          start={asking === "name" ? (puppet?.name ?? "") : ""}
          close={() => setAsking(null)}
          done={(name) =>
            void (asking === "new" ? addPuppet(name) : submit({ do: "set-puppet", puppet: puppet!.id, name }))
          }
        />
      )}
    </>
  );
}

export function AskName({
  title,
  start,
  close,
  done,
}: {
  title: string;
  start: string;
  close: () => void;
  done: (name: string) => void;
}) {
  const [name, setName] = useState(start);
  const finish = (event: React.FormEvent) => {
    event.preventDefault();
    if (!name.trim()) return;
    done(name.trim());
    close();
  };
  return (
    <Modal show onHide={close} size="sm" aria-labelledby="ask-title">
      <Form onSubmit={finish}>
        <Modal.Header closeButton>
          <Modal.Title id="ask-title">{title}</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          <Form.Label htmlFor="ask-name">Name</Form.Label>
          <Form.Control
            id="ask-name"
            autoFocus
            maxLength={120}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        </Modal.Body>
        <Modal.Footer>
          <Button type="submit" disabled={!name.trim()}>
            {title}
          </Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}
