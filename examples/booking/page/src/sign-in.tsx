import { useId, useState } from "preact/hooks";
import { ask, Refused, type Session } from "./api.ts";

export function SignIn({ session, changed }: { session: Session; changed: () => Promise<void> }) {
  const [number, setNumber] = useState("");
  const [refused, setRefused] = useState<string>();
  const field = useId();

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
      <p class="signed-in">
        <span>
          {session.traveller.name}, {session.traveller.id}
        </span>
        <button type="button" class="plain" onClick={signOut}>
          Sign out
        </button>
      </p>
    );
  }
  return (
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
  );
}
