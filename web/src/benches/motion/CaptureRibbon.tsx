/** What is captured and how, while capturing is on; then the count-in. */
import { Form } from "react-bootstrap";
import { useWorkshop, type CaptureWish, see } from "../../session";
import type { Puppet } from "../../wire/types";
import { Select } from "../../ui/Select";

export function CaptureRibbon({ puppet }: { puppet: Puppet }) {
  const capture = useWorkshop((w) => w.capture);
  const joint = useWorkshop((w) => w.joint);
  if (!capture) return null;
  const name = joint ? (puppet.joints?.[joint]?.name ?? puppet.name) : null;
  const put = (part: Partial<CaptureWish>) => see({ capture: { ...capture, ...part } });
  if (capture.count !== null)
    return (
      <div className="ribbon even" role="status">
        {capture.count > 0 ? (
          <>
            Recording in <b className="fs-4 mx-1">{capture.count}</b>
          </>
        ) : (
          <>
            <i className="bi bi-record-fill me-1" aria-hidden="true" /> Recording: let go to end it
          </>
        )}
      </div>
    );
  return (
    <div className="ribbon">
      {capture.what === "whole" || name ? (
        <span>Press on the stage and draw</span>
      ) : (
        <span>Select a joint to capture first</span>
      )}
      <Select
        size="sm"
        aria-label="What is captured"
        className="w-auto"
        value={capture.what}
        onChange={(e) => put({ what: e.target.value as CaptureWish["what"] })}
      >
        <option value="place">{name ?? "joint"}: place</option>
        <option value="turn">{name ?? "joint"}: turn</option>
        <option value="whole">whole puppet: place</option>
      </Select>
      <Select
        size="sm"
        aria-label="Speed of playing while capturing"
        className="w-auto"
        value={capture.speed}
        onChange={(e) => put({ speed: Number(e.target.value) })}
      >
        <option value={100}>full speed</option>
        <option value={50}>half speed</option>
        <option value={25}>quarter speed</option>
      </Select>
      <Form.Check
        type="switch"
        id="count-in"
        label="count in"
        checked={capture.countIn}
        onChange={(e) => put({ countIn: e.target.checked })}
      />
      <button type="button" className="btn btn-sm btn-outline-light" onClick={() => see({ capture: null })}>
        Not now
      </button>
    </div>
  );
}
