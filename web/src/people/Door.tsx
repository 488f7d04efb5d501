/** Where people sign in nothing is shown before they have; on this machine's own address the door is always open. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type FormEvent, type ReactNode } from "react";
import { Button, Form } from "react-bootstrap";
import { ServiceError, session, SIGNED_OUT, signIn } from "../wire/http";

/** Whether people sign in here, and who has. */
export const usePerson = () => useQuery({ queryKey: ["session"], queryFn: session, staleTime: Infinity });

export function Door({ children }: { children: ReactNode }) {
  const cache = useQueryClient();
  const { data, failureCount } = usePerson();
  useEffect(() => {
    const again = () => void cache.invalidateQueries({ queryKey: ["session"] });
    window.addEventListener(SIGNED_OUT, again);
    return () => window.removeEventListener(SIGNED_OUT, again);
  }, [cache]);
  if (data && (!data.sign_in || data.user)) return children;
  return (
    <div className="home">
      <main>
        {/* Whatever was known of productions was somebody else's to see. */}
        {data && <SignIn done={() => void cache.resetQueries()} />}
        {!data && failureCount > 0 && <p role="alert">Sorvan or its database does not answer yet. Trying again…</p>}
      </main>
    </div>
  );
}

function SignIn({ done }: { done: () => void }) {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [busy, setBusy] = useState(false);
  const [wrong, setWrong] = useState<string | null>(null);
  useEffect(() => {
    document.title = "Sign in, Sorvan";
    return () => {
      document.title = "Sorvan";
    };
  }, []);
  const go = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    try {
      await signIn(name, password);
      done();
    } catch (error) {
      setPassword("");
      const told = error instanceof ServiceError ? [error.problem.detail, error.problem.remedy] : [String(error)];
      setWrong(told.filter(Boolean).join(" "));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Form className="card-sheet sign-in" onSubmit={(event) => void go(event)}>
      <div className="d-flex align-items-center gap-3 mb-3">
        <img src="/pin.svg" width={36} height={36} alt="" />
        <h1 className="h3 mb-0">Sign in to Sorvan</h1>
      </div>
      <Form.Label htmlFor="who">Name</Form.Label>
      <Form.Control
        id="who"
        autoFocus
        required
        autoComplete="username"
        maxLength={120}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <Form.Label htmlFor="word" className="mt-2">
        Password
      </Form.Label>
      <Form.Control
        id="word"
        type="password"
        required
        autoComplete="current-password"
        maxLength={1000}
        value={password}
        isInvalid={wrong !== null}
        aria-describedby={wrong ? "word-wrong" : undefined}
        onChange={(e) => setPassword(e.target.value)}
      />
      {wrong && (
        <p id="word-wrong" className="wrong" role="alert">
          {wrong}
        </p>
      )}
      <Button type="submit" className="mt-3 w-100" disabled={busy}>
        {busy ? "Looking…" : "Sign in"}
      </Button>
      <p className="faint small mt-3 mb-0">Whoever keeps this service can let you in, or give you a new password.</p>
    </Form>
  );
}
