/** Whose a production is, and with whom it is shared. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Fragment } from "react";
import { Button, Modal } from "react-bootstrap";
import { tell } from "../session";
import { Select } from "../ui/Select";
import { share, shares } from "../wire/http";

export const MAY = { look: "may look at it", edit: "may edit it" } as const;

export function Sharing({ id, name, close }: { id: string; name: string; close: () => void }) {
  const cache = useQueryClient();
  const { data } = useQuery({ queryKey: ["shares", id], queryFn: () => shares(id), staleTime: 0 });
  const set = (who: string, may: string) =>
    void share(id, who, may === "" ? null : (may as "look" | "edit")).then(
      (now) => cache.setQueryData(["shares", id], now),
      tell,
    );
  return (
    <Modal show onHide={close} aria-labelledby="sharing-title">
      <Modal.Header closeButton>
        <Modal.Title id="sharing-title">Share “{name}”</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {data?.people.length === 0 && <p>Nobody else may sign in here yet.</p>}
        <div className="fields">
          {data?.people.map((who, n) => (
            <Fragment key={who}>
              <label htmlFor={`share-${n}`}>{who}</label>
              <Select
                id={`share-${n}`}
                size="sm"
                value={data.others[who] ?? ""}
                onChange={(e) => set(who, e.target.value)}
              >
                <option value="">does not see it</option>
                <option value="look">{MAY.look}</option>
                <option value="edit">{MAY.edit}</option>
              </Select>
            </Fragment>
          ))}
        </div>
        <p className="hint mb-0">It counts at once, also for pages that are open.</p>
      </Modal.Body>
      <Modal.Footer>
        <Button size="sm" onClick={close}>
          Done
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
