/** A small dialog that asks for a few numbers and does what its button says. */
import { useState } from "react";
import { Button, Modal } from "react-bootstrap";
import { NumberField } from "./fields";
import { allRight } from "./forms";
import type { Told } from "./numbers";

export interface Asked extends Told {
  key: string;
  label: string;
  value: number;
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
            {fields.map(({ key, label, value: _, ...told }, i) => (
              <div key={key} className="fields-of-one">
                <label htmlFor={`ask-${key}`}>{label}</label>
                <NumberField
                  {...told}
                  id={`ask-${key}`}
                  autoFocus={i === 0}
                  value={values[key]!}
                  onCommit={(v) => setValues((before) => ({ ...before, [key]: v }))}
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
