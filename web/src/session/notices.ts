/** What the user is told: by a session while a production is open, else by the list of productions. */
import { createStore } from "zustand/vanilla";
import { ServiceError } from "../wire/http";
import type { Problem } from "../wire/types";

export interface Notice {
  id: number;
  good: boolean;
  title: string;
  text: string;
  more?: string[];
  /** Stays until it is sent away: what it tells is so whatever is done next. */
  lasting?: boolean;
}

/** Good news goes by itself after so many milliseconds. */
const GOOD_NEWS = 5000;
const MOST = 3;

export type Notices = ReturnType<typeof makeNotices>;

export function makeNotices() {
  const store = createStore<{ notices: Notice[] }>(() => ({ notices: [] }));
  let last = 0;
  const dismiss = (id: number): void => store.setState((s) => ({ notices: s.notices.filter((n) => n.id !== id) }));
  const notify = (good: boolean, title: string, text: string, more?: string[], lasting = false): void => {
    // The same said again, as for every movement of a hand that can't be, is said once.
    const again = store.getState().notices.find((n) => n.title === title && n.text === text);
    if (again && !good) return;
    const notice = { id: ++last, good, title, text, more, lasting };
    store.setState((s) => ({ notices: [...s.notices.slice(1 - MOST), notice] }));
    if (good) setTimeout(() => dismiss(notice.id), GOOD_NEWS);
  };
  const tell = (error: unknown): void => {
    const problem: Problem =
      error instanceof ServiceError
        ? error.problem
        : { status: 0, title: "Something went wrong", detail: String(error) };
    const { where, detail } = problem;
    const text = where && !detail.includes(where) ? `${where}: ${detail}` : detail;
    const both = problem.mine
      ? [`Yours: ${problem.mine}`, ...(problem.theirs ?? []).map((t) => `The other window: ${t}`)]
      : [];
    notify(false, problem.title, text, [...both, problem.remedy ?? ""].filter(Boolean));
  };
  /** The newest there has been. */
  const newest = (): number => last;
  /** What was refused until then is past: something else was done since, or is looked at. */
  const past = (until = last): void =>
    store.setState((s) => ({ notices: s.notices.filter((n) => n.good || n.lasting || n.id > until) }));
  return { store, notify, dismiss, tell, newest, past };
}

/** Notices of the page as a whole. */
export const notices = makeNotices();
