import { useEffect, useId, useRef, useState } from "preact/hooks";
import { ask, Refused, type Session } from "./api.ts";

export function SignIn({ session, changed }: { session: Session; changed: () => Promise<void> }) {
  const [number, setNumber] = useState("");
  const [refused, setRefused] = useState<string>();
  const field = useId();
  const form = useRef<HTMLDivElement>(null);
  const wasSignedIn = useRef(session.traveller?.id);

  // Signing in and out takes away what had the focus.
  useEffect(() => {
    if (wasSignedIn.current === session.traveller?.id) return;
    wasSignedIn.current = session.traveller?.id;
    if (document.activeElement === document.body) form.current?.querySelector<HTMLElement>("input, button")?.focus();
  }, [session.traveller?.id]);

  async function signIn(event: Event) {
    event.preventDefault();
    try {
      await ask("/api/session", { body: { id: number } });
      setRefused(undefined);
      setNumber("");
      await changed();
    } catch (error) {
      setRefused(error instanceof Refused ? error.message : "That did not work.");
    }
  }

  async function signOut() {
    await ask("/api/session", { method: "DELETE" });
    await changed();
  }

  if (session.traveller) {
    return (
      <div class="signed-in" ref={form}>
        <span>
          {session.traveller.name}, {session.traveller.id}
        </span>
        {session.desk && <a href={session.desk}>Flags</a>}
        <button type="button" class="plain" onClick={signOut}>
          Sign out
        </button>
      </div>
    );
  }
  return (
    <div ref={form}>
      <form class="sign-in" onSubmit={signIn}>
        <label for={field}>Customer number</label>
        <input
          id={field}
          value={number}
          placeholder="A-17"
          autocomplete="off"
          onInput={(event) => setNumber(event.currentTarget.value)}
        />
        <button type="submit">Sign in</button>
        {refused && <p role="alert">{refused}</p>}
      </form>
    </div>
  );
}
