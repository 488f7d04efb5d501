/** What hangs on what. */
import type { Puppet } from "../wire/types";

/** Whether one joint hangs on another, however far below. */
export function hangsOn(joints: NonNullable<Puppet["joints"]>, id: string, above: string): boolean {
  let at = joints[id]?.parent;
  for (let n = 0; at && n < 1000; n++) {
    if (at === above) return true;
    at = joints[at]?.parent;
  }
  return false;
}
