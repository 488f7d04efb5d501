/** One of a few, as buttons beside one another. */

export interface Choice<V> {
  value: V;
  name: string;
  tip: string;
}

interface ChoicesProps<V> {
  label: string;
  choices: readonly Choice<V>[];
  chosen: (value: V) => boolean;
  choose: (value: V) => void;
  disabled?: boolean;
}

export function Choices<V>({ label, choices, chosen, choose, disabled }: ChoicesProps<V>) {
  return (
    <div className="btn-group btn-group-sm w-100 my-2" role="group" aria-label={label}>
      {choices.map(({ value, name, tip }) => (
        <button
          key={name}
          type="button"
          title={tip}
          disabled={disabled}
          className={`btn px-1 ${chosen(value) ? "btn-primary" : "btn-outline-primary"}`}
          aria-pressed={chosen(value)}
          onClick={() => choose(value)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
