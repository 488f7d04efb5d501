/**
 * A choice of a list. A pick by hand counts at once; walked over by keys nothing changes until Enter, or leaving it, and
 * Escape goes back.
 */
import { useRef, useState, type ComponentProps, type KeyboardEvent } from "react";
import { Form } from "react-bootstrap";

interface Picked {
  target: { value: string };
}

type SelectProps = Omit<ComponentProps<typeof Form.Select>, "value" | "onChange"> & {
  value: string | number | undefined;
  onChange: (picked: Picked) => void;
};

/** Whether a key walks over the choices of a closed list. */
const walks = (e: KeyboardEvent): boolean =>
  !e.altKey && !e.ctrlKey && !e.metaKey && (e.key.length === 1 ? e.key !== " " : /^(Arrow|Page|Home|End)/.test(e.key));

export function Select({ value, onChange, children, ...rest }: SelectProps) {
  const [passing, setPassing] = useState<string | null>(null);
  const byKeys = useRef(false);
  const pick = (to: string) => {
    setPassing(null);
    if (to !== String(value ?? "")) onChange({ target: { value: to } });
  };
  return (
    <Form.Select
      {...rest}
      value={passing ?? value}
      onPointerDown={() => (byKeys.current = false)}
      onKeyDown={(e) => {
        if (passing !== null && (e.key === "Enter" || e.key === "Escape")) {
          e.preventDefault();
          e.stopPropagation();
          if (e.key === "Enter") pick(passing);
          else setPassing(null);
          return;
        }
        byKeys.current = walks(e);
      }}
      onChange={(e) => (byKeys.current ? setPassing(e.target.value) : pick(e.target.value))}
      onBlur={() => passing !== null && pick(passing)}
    >
      {children}
    </Form.Select>
  );
}
