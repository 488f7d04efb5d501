/** A colour: picked by hand or from a list, or told by its number. */
import { PLAIN } from "../ui/paints";
import { useEffect, useRef, useState } from "react";
import { useProduction } from "../session";
import { AskName } from "../ui/AskName";
import { Menu } from "../ui/Menu";

interface ColourFieldProps {
  label: string;
  /** `#rrggbbaa`; the last two are kept opaque. */
  value: string;
  disabled?: boolean;
  onCommit: (colour: string) => void;
}

/** A colour: the picker shows what it is moved over, and closing it is one change. */
export function ColourField({ label, value, disabled, onCommit }: ColourFieldProps) {
  const field = useRef<HTMLInputElement>(null);
  const [picked, setPicked] = useState<string | null>(null);
  const commit = useRef(onCommit);
  useEffect(() => {
    commit.current = onCommit;
  }, [onCommit]);
  useEffect(() => {
    const input = field.current!;
    // The browser's own `change` comes once, when the picker is done; React's comes with every movement.
    const done = () => {
      setPicked(null);
      commit.current(`${input.value}ff`);
    };
    input.addEventListener("change", done);
    return () => input.removeEventListener("change", done);
  }, []);
  const [asking, setAsking] = useState(false);
  const production = useProduction();
  const swatches = Object.values(production?.swatches ?? {});
  const entry = (name: string, colour: string, key: string) => ({
    key,
    text: (
      <>
        <span className="colour-chip" style={{ background: colour.slice(0, 7) }} /> {name}
      </>
    ),
    run: () => onCommit(`${colour.slice(0, 7)}ff`),
  });
  return (
    <span className="colour-field">
      <input
        ref={field}
        type="color"
        className="form-control form-control-sm form-control-color"
        aria-label={label}
        disabled={disabled}
        value={picked ?? value.slice(0, 7)}
        onChange={(e) => setPicked(e.target.value)}
      />
      {!disabled && (
        <Menu
          label={`${label} from a list`}
          entries={[
            ...swatches.map((s) => entry(s.name, s.colour, s.id)),
            swatches.length > 0 && "line",
            ...PLAIN.map(([name, colour]) => entry(name, colour, name)),
            "line",
            { text: "By its number…", run: () => setAsking(true) },
          ]}
        >
          <span className="visually-hidden">List</span>
        </Menu>
      )}
      {asking && (
        <AskName
          title={`${label}, by number`}
          label="Red, green and blue as #rrggbb"
          button="Take it"
          start={value.slice(0, 7)}
          right={(text) => /^#?[0-9a-f]{6}$/i.test(text.trim())}
          wrong="Six digits from 0 to f are needed, as in #c9a36a."
          close={() => setAsking(false)}
          done={(text) => onCommit(`#${text.replace("#", "").toLowerCase()}ff`)}
        />
      )}
    </span>
  );
}
