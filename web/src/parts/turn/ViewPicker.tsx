/** From where something is made to be seen: one of the views of a puppet that can be turned. */
import { turnaroundOf, type Puppet } from "../../wire/types";
import { Select } from "../../ui/Select";

interface Props {
  id: string;
  label: string;
  puppet: Puppet;
  value: number | null | undefined;
  /** What it says when no view is told. */
  untold: string;
  onPick: (at: number | null) => void;
}

export function ViewPicker({ id, label, puppet, value, untold, onPick }: Props) {
  const dial = turnaroundOf(puppet);
  if (!dial) return null;
  // A view in the mirror does what the one that it mirrors does.
  const views = (dial.stops ?? []).filter((v) => !v.flips);
  return (
    <>
      <label htmlFor={id}>{label}</label>
      <Select
        id={id}
        size="sm"
        value={value ?? ""}
        onChange={(e) => onPick(e.target.value === "" ? null : Number(e.target.value))}
      >
        <option value="">{untold}</option>
        {value != null && !views.some((v) => v.at === value) && <option value={value}>{value}°</option>}
        {views.map((v) => (
          <option key={v.at} value={v.at}>
            the {v.name || `${v.at}°`}
          </option>
        ))}
      </Select>
    </>
  );
}
