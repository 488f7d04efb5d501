/** The sheet of shortcuts: what each key does, and other keys for it. */
import { useEffect, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { changed, hearLetters, keysOf, lettersHeard, setKey } from "./ownKeys";
import { allShortcuts, holding, spell, spelled, type Shortcut } from "./shortcuts";

export function KeyTable() {
  const [letters, setLetters] = useState(lettersHeard);
  const [asking, setAsking] = useState<string | null>(null);
  const [said, setSaid] = useState("");
  const [, again] = useState(0);
  const taken = (key: string, does: string) => allShortcuts().find((s) => s.does !== does && keysOf(s).includes(key));
  const put = (does: string, key: string | null) => {
    const other = key ? taken(key, does) : undefined;
    if (other) setSaid(`${spell(key!)} is for “${other.does}”. Choose another key.`);
    else {
      setKey(does, key);
      setSaid(key ? `${spell(key)}: ${does}` : "");
    }
    setAsking(null);
    again((n) => n + 1);
  };
  return (
    <>
      <Form.Check
        id="letter-keys"
        type="switch"
        className="mb-2"
        label="Single keys do something by themselves"
        checked={letters}
        onChange={(e) => {
          hearLetters(e.target.checked);
          setLetters(e.target.checked);
        }}
      />
      <table className="table table-sm mb-0">
        <tbody>
          {allShortcuts().map((s) => (
            <Line
              key={s.keys.join() + s.does}
              shortcut={s}
              asking={asking === s.does}
              ask={() => setAsking(s.does!)}
              put={(key) => put(s.does!, key)}
              stop={() => setAsking(null)}
            />
          ))}
        </tbody>
      </table>
      <p className="hint mb-0" role="status">
        {said || "Press a key’s button to give it another."}
      </p>
    </>
  );
}

interface LineProps {
  shortcut: Shortcut;
  asking: boolean;
  ask: () => void;
  put: (key: string | null) => void;
  stop: () => void;
}

function Line({ shortcut, asking, ask, put, stop }: LineProps) {
  const keys = keysOf(shortcut);
  return (
    <tr>
      <td className="text-nowrap">
        {asking ? (
          <Waiting put={put} stop={stop} />
        ) : (
          <button type="button" className="icon-btn keys" title="Give it another key" onClick={ask}>
            {keys.map((k) => (
              <span key={k} className="key-cap me-1">
                {spell(k)}
              </span>
            ))}
          </button>
        )}
        {changed(shortcut.does!) && !asking && (
          <button
            type="button"
            className="icon-btn quiet"
            aria-label={`${shortcut.does}: the key that it came with`}
            onClick={() => put(null)}
          >
            <i className="bi bi-arrow-counterclockwise" aria-hidden="true" />
          </button>
        )}
      </td>
      <td>{shortcut.does}</td>
    </tr>
  );
}

/** Waits for the next key; Escape leaves it as it was. */
function Waiting({ put, stop }: { put: (key: string) => void; stop: () => void }) {
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => button.current?.focus(), []);
  useEffect(() => holding(stop), [stop]);
  return (
    <button
      ref={button}
      type="button"
      className="icon-btn"
      onBlur={stop}
      onKeyDown={(e) => {
        if (["Shift", "Control", "Alt", "Meta", "Tab"].includes(e.key)) return;
        e.preventDefault();
        e.stopPropagation();
        put(spelled(e.nativeEvent));
      }}
    >
      Press a key…
    </button>
  );
}
