/** Details of one of the cast: where it stands, how it is carried, and what it does. */
import { motionsOf, submit, useWorkshop } from "../../session";
import { Fold } from "../../ui/Fold";
import { NumberRow, SwitchRow, TextField } from "../../ui/fields";
import { Menu } from "../../ui/Menu";
import type { CastOf, Member, Shot } from "../../wire/types";
import { addSpan, calledOf, keyAt, valueNow } from "./commands";

export function CastPanel({ shot, cast }: { shot: Shot; cast: CastOf }) {
  const put = (given: object) => void submit({ do: "set-cast", shot: shot.id, cast: cast.id, ...given });
  return (
    <Fold title={calledOf(cast)} note={cast.kind === "copies" ? "copies" : undefined}>
      <div className="fields">
        <label htmlFor="c-name">Name</label>
        <TextField id="c-name" value={calledOf(cast)} onCommit={(name) => put({ name })} />
        <NumberRow id="c-x" label="Across" value={cast.at[0]} unit="units" onCommit={(x) => put({ at: [x, null] })} />
        <NumberRow id="c-y" label="Down" value={cast.at[1]} unit="units" onCommit={(y) => put({ at: [null, y] })} />
        <NumberRow
          id="c-scale"
          label="Size"
          of="Member.scale"
          times={100}
          value={cast.scale}
          unit="%"
          onCommit={(v) => put({ scale: v })}
        />
        {cast.kind === "member" && (
          <NumberRow id="c-turn" label="Turn" value={cast.turn} unit="°" onCommit={(turn) => put({ turn })} />
        )}
        <NumberRow
          id="c-share"
          label="Depth"
          of="Member.share"
          value={cast.share}
          unit="%"
          digits={0}
          onCommit={(share) => put({ share })}
        />
        <SwitchRow
          id="c-mirror"
          label="Mirror"
          text="looks the other way"
          checked={cast.mirror}
          onChange={(mirror) => put({ mirror })}
        />
      </div>
      <p className="hint">
        Depth: how much it shifts with the camera. The stage itself shifts by 100 %, what is far behind by less, what is
        close in front by more.
      </p>
    </Fold>
  );
}

/** Keys of a member's place at the frame that shows. */
export function PlacePanel({ member }: { member: Member }) {
  useWorkshop((w) => w.shotPlan);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const keyed = Object.keys(member.place ?? {}).length > 0;
  const [x, y] = valueNow(member.id, "move");
  const [turn] = valueNow(member.id, "turn");
  const [sx, sy] = valueNow(member.id, "scale");
  const [opacity] = valueNow(member.id, "opacity");
  return (
    <Fold title="Keyed place" open={keyed} note={keyed ? `frame ${frame + 1}` : "no keys"}>
      <p className="hint mt-0">What is entered here is keyed at the frame that shows, on top of where it stands.</p>
      <div className="fields">
        <NumberRow
          id="k-x"
          label="Across"
          value={x!}
          unit="units"
          always
          onCommit={(v) => void keyAt(member.id, { move: [v, null] })}
        />
        <NumberRow
          id="k-y"
          label="Down"
          value={y!}
          unit="units"
          always
          onCommit={(v) => void keyAt(member.id, { move: [null, v] })}
        />
        <NumberRow
          id="k-turn"
          label="Turn"
          value={turn!}
          unit="°"
          always
          onCommit={(v) => void keyAt(member.id, { turn: [v] })}
        />
        <NumberRow
          id="k-size"
          label="Size"
          of="scale.typed"
          times={100}
          value={Math.sqrt(Math.abs(sx! * sy!))}
          unit="%"
          always
          onCommit={(v) => void keyAt(member.id, { scale: [v, v] })}
        />
        <NumberRow
          id="k-opacity"
          label="Opacity"
          of="opacity.typed"
          value={opacity!}
          unit="%"
          always
          onCommit={(v) => void keyAt(member.id, { opacity: [v] })}
        />
      </div>
    </Fold>
  );
}

/** What a member can do from the frame that shows. */
export function DoesPanel({ member }: { member: Member }) {
  const documents = useWorkshop((w) => w.documents);
  const motions = motionsOf(documents, member.puppet);
  if (!motions.length) return null;
  return (
    <div className="card-sheet add-panel">
      <span className="heading">Do from here</span>
      <Menu
        label="Let it do a motion from the frame that shows"
        align="end"
        entries={motions.map((m) => ({
          key: m.id,
          text: `${m.name}${m.cycle ? ", round and round" : ""}`,
          run: () => void addSpan(member, m.id),
        }))}
      >
        <i className="bi bi-plus-lg" aria-hidden="true" /> Motion
      </Menu>
    </div>
  );
}
