/** Which of a puppet's joints answers to which of a rig, and how sure that is; told otherwise by hand. */
import { Select } from "../../ui/Select";
import type { FittingView, Puppet } from "../../wire/types";
import type { Told } from "./fitting";

interface Props {
  view: FittingView;
  puppet: Puppet;
  told: Told;
  tell: (told: Told) => void;
}

export function Pairs({ view, puppet, told, tell }: Props) {
  const joints = Object.values(puppet.joints ?? {})
    .filter((j) => !j.handle)
    .sort((a, b) => a.name.localeCompare(b.name));
  const taken = new Set(view.pairs.map((p) => p.other));
  // What has no answer, and what is least sure, is to be looked at first.
  const rows = [...view.pairs].sort((a, b) => Number(a.other !== null) - Number(b.other !== null) || a.sure - b.sure);
  const pick = (joint: string, other: string) => {
    const next = { ...told };
    // A part has one place: where it was it is no more.
    for (const [one, its] of Object.entries(told)) if (other && its === other) delete next[one];
    next[joint] = other || null;
    tell(next);
  };
  return (
    <table className="pairs">
      <thead>
        <tr>
          <th scope="col">Joint of the rig</th>
          <th scope="col">Here</th>
          <th scope="col">How sure</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((p) => (
          <tr key={p.joint} data-joint={p.joint} className={p.other ? "" : "open"}>
            <th scope="row">{p.name}</th>
            <td>
              <Select
                size="sm"
                aria-label={`What takes ${p.name}`}
                value={p.other ?? ""}
                onChange={(e) => pick(p.joint, e.target.value)}
              >
                <option value="">nothing</option>
                {joints.map((j) => (
                  <option key={j.id} value={j.id}>
                    {j.name}
                    {taken.has(j.id) && j.id !== p.other ? " (taken)" : ""}
                  </option>
                ))}
              </Select>
            </td>
            <td className="faint small">{p.other ? `${Math.round(p.sure * 100)} %, ${p.why}` : "does not fit"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
