/** Details of a span: which motion, when, how fast, and how it comes in. */
import { useState } from "react";
import { freshId, motionsOf, submit, useWorkshop, type Bench, turnTo } from "../../session";
import { Fold } from "../../ui/Fold";
import { NumberRow, SwitchRow } from "../../ui/fields";
import type { Member, Motion, Shot, Span } from "../../wire/types";
import { AskSteps } from "./TravelPanel";
import { matchFeet, setSpan, spanEnd } from "./commands";
import { Select } from "../../ui/Select";

export function SpanPanel({
  shot,
  member,
  span,
  go,
}: {
  shot: Shot;
  member: Member;
  span: Span;
  go: (bench: Bench) => void;
}) {
  const documents = useWorkshop((w) => w.documents);
  const [asking, setAsking] = useState(false);
  const motion = documents[span.motion] as Motion | undefined;
  const motions = motionsOf(documents, member.puppet);
  const length = motion?.length ?? 1;
  const put = (given: Partial<Span>, match = false) => setSpan(member.id, span.id, given, match);
  const others = Object.values(documents).filter(
    (d) =>
      d.kind === "shot" &&
      d.id !== shot.id &&
      Object.values(d.cast ?? {}).some(
        (c) => c.kind === "member" && Object.values(c.spans ?? {}).some((s) => s.motion === span.motion),
      ),
  ).length;
  return (
    <Fold title="Span" note={`frames ${span.start + 1}–${spanEnd(span)}`}>
      <div className="fields">
        <label htmlFor="n-motion">Motion</label>
        <Select
          id="n-motion"
          size="sm"
          value={span.motion}
          onChange={(e) => put({ motion: e.target.value, first: 0, stop: null })}
        >
          {motions.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </Select>
        <NumberRow id="n-start" label="From" of="Span.start" value={span.start} onCommit={(v) => put({ start: v })} />
        <NumberRow
          id="n-frames"
          label="Lasts"
          of="Span.frames"
          value={span.frames}
          onCommit={(v) => put({ frames: v })}
        />
        <label htmlFor="n-play">Plays</label>
        <Select id="n-play" size="sm" value={span.play} onChange={(e) => put({ play: e.target.value as Span["play"] })}>
          <option value="loop">round and round</option>
          <option value="once">once</option>
          <option value="hold">holding one frame</option>
        </Select>
        <NumberRow
          id="n-first"
          label="Begins at"
          of="Span.first"
          plus={1}
          value={span.first}
          unit="its frame"
          digits={2}
          max={length - 1}
          onCommit={(v) => put({ first: v })}
        />
        {span.play !== "hold" && (
          <>
            <NumberRow
              id="n-stop"
              label="Goes up to"
              of="Span.stop"
              value={Math.min(span.stop ?? length, length)}
              unit="its frame"
              digits={0}
              min={Math.floor(span.first) + 1}
              max={length}
              onCommit={(v) => put({ stop: v >= length ? null : v })}
            />
            <NumberRow
              id="n-speed"
              label="Speed"
              of="Span.speed"
              value={span.speed}
              unit="%"
              digits={1}
              onCommit={(speed) => put({ speed })}
            />
            <SwitchRow
              id="n-reverse"
              label="Reverse"
              text="backwards"
              checked={span.reverse}
              onChange={(reverse) => put({ reverse })}
            />
          </>
        )}
        <NumberRow
          id="n-blend"
          label="Comes in"
          tip="Over so many frames what was before becomes this motion, instead of in one jump"
          of="Span.blend"
          value={span.blend}
          onCommit={(v) => put({ blend: v }, v > 0)}
        />
        {span.row > 0 && (
          <NumberRow
            id="n-out"
            label="Goes out"
            tip="Over its last so many frames what lies below comes back"
            of="Span.out"
            value={span.out}
            onCommit={(v) => put({ out: v })}
          />
        )}
        <NumberRow
          id="n-row"
          label="Row"
          tip="A motion on a row above does what it has keys for, over what lies below"
          of="Span.row"
          value={span.row}
          unit="above"
          onCommit={(v) => put({ row: v })}
        />
      </div>
      <div className="d-flex flex-wrap gap-1 mt-2">
        {span.row === 0 && (
          <button
            type="button"
            className="icon-btn"
            title="Begin in its cycle where its feet are most like those of the motion before it"
            onClick={() => void matchFeet(member.id, span.id)}
          >
            <i className="bi bi-link-45deg" aria-hidden="true" /> Match the feet
          </button>
        )}
        {(member.travel?.way ?? []).length > 1 && (
          <button type="button" className="icon-btn" onClick={() => setAsking(true)}>
            <i className="bi bi-signpost-split" aria-hidden="true" /> Fit the steps…
          </button>
        )}
        <button
          type="button"
          className="icon-btn"
          title={
            others
              ? `${others} other shots use it too: a copy keeps what you change to this one`
              : "A copy for this shot only"
          }
          onClick={() =>
            void submit({ do: "detach-motion", shot: shot.id, cast: member.id, span: span.id, id: freshId() })
          }
        >
          <i className="bi bi-copy" aria-hidden="true" /> Own copy
        </button>
        <button
          type="button"
          className="icon-btn"
          onClick={() => {
            turnTo({ puppet: member.puppet, motion: span.motion, frame: 0 });
            go("motion");
          }}
        >
          <i className="bi bi-pencil" aria-hidden="true" /> Open on its bench
        </button>
      </div>
      <p className="hint">
        A motion on a row above does what it has keys for, over what lies below it: an arm that waves while the legs
        walk.
      </p>
      {asking && <AskSteps cast={member.id} span={span.id} close={() => setAsking(false)} />}
    </Fold>
  );
}
