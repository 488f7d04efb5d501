/** Who is signed in, and the way out. */
import { signOut } from "../wire/http";
import { tell } from "../session";
import { usePerson } from "./Door";

export function Person() {
  const { data } = usePerson();
  if (!data?.sign_in || !data.user) return null;
  return (
    <span className="person">
      <i className="bi bi-person" aria-hidden="true" />
      <span className="text-truncate">{data.user}</span>
      <button type="button" className="btn btn-link btn-sm" onClick={() => void signOut().catch(tell)}>
        Sign out
      </button>
    </span>
  );
}
