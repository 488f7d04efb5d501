/**
 * Fields: what is typed, slid or picked. Each shows while it changes and commits once: on Enter, on
 * leaving it, or when the hand lets go. What is wrong stays, with the reason beside it, until it is put right; Escape
 * drops what was begun.
 */
import { useEffect, useId, useRef, useState, type ChangeEvent, type KeyboardEvent } from "react";
import { Form } from "react-bootstrap";
import { shownAs, type Told } from "./numbers";

interface NumberFieldProps extends Told {
  id: string;
  /** For a field that no label on the page names. */
  label?: string;
  /** What explains it. */
  tip?: string;
  /** As the core holds it; untold it is what the core takes it for. */
  value: number | null | undefined;
  /** Whether entering the number that is shown already means something: keying it here, say. */
  always?: boolean;
  /** Whether it has the caret from the first: in a dialog that asks for it. */
  autoFocus?: boolean;
  onCommit: (value: number) => void;
}

/** A number with its unit: typed and entered, or stepped with the arrow keys. */
export function NumberField(props: NumberFieldProps) {
  const { id, label, always } = props;
  const { unit, digits, min, max, shown: show, meant } = shownAs(props);
  const value = show(props.value);
  const onCommit = (typed: number) => props.onCommit(meant(typed));
  const shown = String(Number(value.toFixed(digits)));
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  // Leaving by Escape leaves the field before the dropped text is out of it.
  const dropped = useRef(false);
  /** What arrows have stepped to shows until it has come back, so that the next step goes on from there: whether an arrow
   * is down, and what was said last. */
  const stepping = useRef(false);
  const said = useRef<number | null>(null);
  useEffect(() => {
    if (said.current === null || Number(value.toFixed(digits)) !== said.current) return;
    said.current = null;
    if (!stepping.current) setText(null);
  }, [value, digits]);
  const commit = (raw: string, entered = false) => {
    const number = Number(raw.replace(",", "."));
    const fits =
      raw.trim() !== "" &&
      Number.isFinite(number) &&
      (min === undefined || number >= min) &&
      (max === undefined || number <= max);
    setWrong(!fits);
    if (!fits) return;
    const before = said.current ?? Number(shown);
    if (stepping.current) said.current = number;
    else setText(null);
    if (number !== before || (always && entered)) onCommit(number);
  };
  const why = `A number${min !== undefined ? ` from ${min}` : ""}${max !== undefined ? ` to ${max}` : ""} is needed.`;
  const told = useId();
  return (
    <div className="num">
      <input
        id={id}
        className={`form-control form-control-sm${wrong ? " is-invalid" : ""}`}
        inputMode="decimal"
        // eslint-disable-next-line jsx-a11y/no-autofocus -- as its dialog asks
        autoFocus={props.autoFocus}
        aria-label={label}
        title={props.tip}
        value={text ?? shown}
        aria-invalid={wrong}
        aria-describedby={wrong ? told : undefined}
        onChange={(e) => setText(e.target.value)}
        onFocus={(e) => {
          dropped.current = false;
          e.target.select();
        }}
        onBlur={() => {
          stepping.current = false;
          if (text !== null && !dropped.current) commit(text);
          said.current = null;
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter" && text !== null) commit(text, true);
          // What was not touched is meant as exactly as it is, not as it is shown.
          else if (e.key === "Enter" && always) props.onCommit(props.value ?? meant(value));
          if (e.key === "Escape") {
            dropped.current = true;
            setText(null);
            setWrong(false);
            e.currentTarget.blur();
          }
          if (e.key === "ArrowUp" || e.key === "ArrowDown") {
            e.preventDefault();
            const step = (e.key === "ArrowUp" ? 1 : -1) * (e.shiftKey ? 10 : 1);
            stepping.current = true;
            setText(String(Number((Number((text ?? shown).replace(",", ".")) + step).toFixed(digits))));
          }
        }}
        onKeyUp={() => {
          // However long an arrow is held, it is one change.
          if (stepping.current && text !== null) commit(text);
          stepping.current = false;
        }}
      />
      <span className="unit">{unit}</span>
      {wrong && (
        <span id={told} className="wrong" role="alert">
          {why}
        </span>
      )}
    </div>
  );
}

interface TextFieldProps {
  id?: string;
  /** For a field that no label on the page names. */
  label?: string;
  value: string;
  placeholder?: string;
  title?: string;
  longest?: number;
  className?: string;
  /** Whether it must say something: emptied it goes back to what it said. */
  needed?: boolean;
  /** More than one: a text of several lines, in which Enter begins the next. */
  lines?: number;
  /** What is usually said. */
  usual?: string[];
  onCommit: (text: string) => void;
}

/** A text: typed, and entered or left; Escape drops what was typed. */
export function TextField({
  value,
  label,
  longest = 120,
  className,
  needed,
  lines,
  usual,
  onCommit,
  ...own
}: TextFieldProps) {
  const [text, setText] = useState<string | null>(null);
  const dropped = useRef(false);
  const list = useId();
  const commit = () => {
    const said = text?.trim();
    if (said !== undefined && said !== value && !dropped.current && (said || !needed)) onCommit(said);
    setText(null);
  };
  const shared = {
    ...own,
    className: `form-control form-control-sm ${className ?? ""}`,
    "aria-label": label,
    maxLength: longest,
    value: text ?? value,
    onChange: (e: ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => setText(e.target.value),
    onFocus: () => (dropped.current = false),
    onBlur: commit,
    onKeyDown: (e: KeyboardEvent<HTMLElement>) => {
      if (e.key === "Enter" && (!lines || e.ctrlKey)) commit();
      if (e.key === "Escape") {
        // What was typed goes, and nothing else that Escape ends.
        if (text !== null) e.stopPropagation();
        dropped.current = true;
        e.currentTarget.blur();
      }
    },
  };
  if (lines) return <textarea rows={lines} {...shared} />;
  return (
    <>
      <input list={usual && list} {...shared} />
      {usual && (
        <datalist id={list}>
          {usual.map((u) => (
            <option key={u} value={u} />
          ))}
        </datalist>
      )}
    </>
  );
}

interface SliderProps extends Told {
  id?: string;
  label?: string;
  /** What explains it. */
  tip?: string;
  step?: number;
  value: number | null | undefined;
  /** What shows while it is slid. */
  onSlide?: (value: number) => void;
  onCommit: (value: number) => void;
  /** It was slid, and then let be. */
  onCancel?: () => void;
}

/** A slider: arrows and the hand slide it; letting go, Enter or leaving it commits where it stands. */
export function Slider({ id, label, tip, step, value, onSlide, onCommit, onCancel, ...told }: SliderProps) {
  const [at, setAt] = useState<number | null>(null);
  const { min, max, shown, meant } = shownAs(told);
  const done = () => {
    if (at === null) return;
    setAt(null);
    onCommit(meant(at));
  };
  return (
    <Form.Range
      id={id}
      aria-label={label}
      title={tip}
      min={min}
      max={max}
      step={step}
      value={at ?? shown(value)}
      onChange={(e) => {
        const now = Number(e.target.value);
        setAt(now);
        onSlide?.(meant(now));
      }}
      onPointerUp={done}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Enter") done();
        if (e.key === "Escape" && at !== null) {
          e.stopPropagation();
          setAt(null);
          onCancel?.();
        }
      }}
    />
  );
}

interface TrySliderProps extends Told {
  id?: string;
  label?: string;
  /** What is said of where it stands. */
  said?: string;
  className?: string;
  step?: number;
  value: number;
  onSlide: (value: number) => void;
}

/** A slider of what is only looked at: nothing is committed, so there is nothing to let go. */
export function TrySlider({ id, label, said, className, step, value, onSlide, ...told }: TrySliderProps) {
  const { min, max, shown, meant } = shownAs(told);
  return (
    <Form.Range
      id={id}
      className={className}
      aria-label={label}
      aria-valuetext={said}
      min={min}
      max={max}
      step={step}
      value={shown(value)}
      onChange={(e) => onSlide(meant(Number(e.target.value)))}
    />
  );
}

interface SwitchRowProps {
  id: string;
  /** What stands before it, and what it says itself. */
  label: string;
  text: string;
  checked: boolean;
  disabled?: boolean;
  onChange: (on: boolean) => void;
}

/** A row of a form: a label and a switch. */
export function SwitchRow({ id, label, text, checked, disabled, onChange }: SwitchRowProps) {
  return (
    <>
      <label htmlFor={id}>{label}</label>
      <Form.Check
        id={id}
        type="switch"
        label={text}
        checked={checked}
        disabled={disabled}
        onChange={(e) => onChange(e.target.checked)}
      />
    </>
  );
}

/** A row of a form: a label and a number. */
export function NumberRow({ label, ...field }: NumberFieldProps & { label: string }) {
  return (
    <>
      <label htmlFor={field.id} title={field.tip}>
        {label}
      </label>
      <NumberField {...field} />
    </>
  );
}
