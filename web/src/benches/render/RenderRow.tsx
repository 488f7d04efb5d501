/** A render on the list: how far it is, and what can be done with it. */
import { useCarried, useOnto } from "../../ui/Carrying";
import { useState } from "react";
import { Button, ProgressBar } from "react-bootstrap";
import { tell, forgetRender } from "../../session";
import { cancelRender, removeRender, takeUpRender } from "../../wire/http";
import { Asked } from "../../ui/Asked";
import type { RenderView } from "../../wire/types";

const STATES: Record<RenderView["state"], string> = {
  waiting: "Waiting its turn",
  running: "Drawing",
  done: "Done",
  cancelled: "Cancelled",
  failed: "Failed",
  stopped: "Stopped",
};

export function RenderRow({
  render,
  production,
  chosen,
  show,
  turns,
}: {
  render: RenderView;
  production: string;
  chosen: boolean;
  /** Show it in the player, if that can. */
  show?: () => void;
  /** Of one that waits: what is drawn before it, and behind which it would be put one place later. */
  turns?: {
    earlier: string | null;
    later: string | null | undefined;
    put: (dragged: string, before: string | null) => void;
  };
}) {
  const { ref: hold, ...carrying } = useCarried(turns ? { kind: "render", id: render.id, name: render.title } : null);
  const { ref: under, over } = useOnto(
    turns
      ? {
          takes: ({ kind, id }) => kind === "render" && id !== render.id,
          drop: ({ id }) => turns.put(id, render.id),
        }
      : null,
  );
  const going = render.state === "running" || render.state === "waiting";
  const [asking, setAsking] = useState(false);
  // A film took its time; what came to nothing goes at once.
  const drop = () => (render.ready ? setAsking(true) : remove());
  const remove = () => void removeRender(production, render.id).then(() => forgetRender(render.id), tell);
  return (
    <div
      className={`d-flex align-items-center gap-2 px-3 py-2 border-top${over ? " dropping" : ""}`}
      data-render={render.id}
      data-state={render.state}
      {...carrying}
      ref={(element) => {
        hold(element);
        under(element);
      }}
    >
      <div className="flex-grow-1 shrinks">
        <div className="text-truncate">{render.title}</div>
        {going ? (
          <>
            <ProgressBar now={render.done} max={render.total} className="low" aria-label="Progress" />
            <div className="small faint">
              {STATES[render.state]}: {render.done} of {render.total} frames
              {render.seconds_left != null && `, about ${Math.max(1, Math.ceil(render.seconds_left))} s left`}
            </div>
          </>
        ) : (
          <div className={`small ${render.state === "failed" ? "text-danger" : "faint"}`}>
            {STATES[render.state]}
            {render.message && `: ${render.message}`}
          </div>
        )}
      </div>
      {turns && (
        <span className="d-flex">
          <button
            type="button"
            className="icon-btn quiet"
            aria-label={`Draw ${render.title} sooner`}
            disabled={turns.earlier === null}
            onClick={() => turns.put(render.id, turns.earlier)}
          >
            <i className="bi bi-arrow-up" aria-hidden="true" />
          </button>
          <button
            type="button"
            className="icon-btn quiet"
            aria-label={`Draw ${render.title} later`}
            disabled={turns.later === undefined}
            onClick={() => turns.put(render.id, turns.later ?? null)}
          >
            <i className="bi bi-arrow-down" aria-hidden="true" />
          </button>
        </span>
      )}
      {(render.state === "cancelled" || render.state === "failed") && (
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() => void takeUpRender(production, render.id).catch(tell)}
        >
          Go on
        </Button>
      )}
      {going && (
        <Button size="sm" variant="outline-danger" onClick={() => void cancelRender(production, render.id).catch(tell)}>
          Cancel
        </Button>
      )}
      {render.ready && show && (
        <Button size="sm" variant={chosen ? "primary" : "outline-primary"} onClick={show}>
          Play
        </Button>
      )}
      {render.ready && (
        <a
          className="btn btn-sm btn-outline-primary"
          href={`/api/productions/${production}/renders/${render.id}/file?download=true`}
          download
        >
          <i className="bi bi-download me-1" aria-hidden="true" />
          Fetch
        </a>
      )}
      {!going && (
        <button type="button" className="icon-btn" aria-label={`Remove ${render.title}`} onClick={drop}>
          <i className="bi bi-trash" aria-hidden="true" />
        </button>
      )}
      {asking && (
        <Asked
          title={`Remove “${render.title}”?`}
          keep="Keep it"
          go="Remove it"
          close={() => setAsking(false)}
          run={remove}
        >
          The film goes from here; fetch it first if you want it. It can be rendered again.
        </Asked>
      )}
    </div>
  );
}
