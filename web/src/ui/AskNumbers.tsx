/** A small dialog that asks for a few numbers and does what its button says. */
import { useState } from "react";
import { Button, Modal } from "react-bootstrap";
import { NumberField } from "./fields";
import { allRight } from "./forms";

export interface Asked {
  key: string;
  label: string;
  unit: string;
  value: number;
  min?: number;
  max?: number;
  digits?: number;
}

interface Props {
  title: string;
  text?: string;
  fields: Asked[];
  button: string;
  done: (values: Record<string, number>) => void;
  close: () => void;
}

export function AskNumbers({ title, text, fields, button, done, close }: Props) {
  const [values, setValues] = useState(() => Object.fromEntries(fields.map((f) => [f.key, f.value])));
  return (
    <Modal show onHide={close} size="sm" aria-labelledby="numbers-title">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (!allRight(e.currentTarget)) return;
          done(values);
          close();
        }}
      >
        <Modal.Header closeButton>
          <Modal.Title id="numbers-title">{title}</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          {text && <p className="hint mt-0">{text}</p>}
          <div className="fields">
            {fields.map((f, i) => (
              <div key={f.key} style={{ display: "contents" }}>
                <label htmlFor={`ask-${f.key}`}>{f.label}</label>
                <NumberField
                  id={`ask-${f.key}`}
                  autoFocus={i === 0}
                  value={values[f.key]!}
                  unit={f.unit}
                  min={f.min}
                  max={f.max}
                  digits={f.digits ?? 2}
                  onCommit={(v) => setValues((before) => ({ ...before, [f.key]: v }))}
                />
              </div>
            ))}
          </div>
        </Modal.Body>
        <Modal.Footer>
          <Button variant="outline-primary" onClick={close}>
            Cancel
          </Button>
          <Button type="submit">{button}</Button>
        </Modal.Footer>
      </form>
    </Modal>
  );
}
