import type { CurrentEvent } from "../desk/index.ts";
import { setClock, tick } from "./asking/clock.ts";
import { arrive, writeNow } from "./definitions/asking.ts";
import { fetched, fetchVersion, heldVersion, versionBy } from "./definitions/versions.ts";
import { openSession, Refused } from "./service/ask.ts";
import { closed, connection, draftNumber, session } from "./service/session.ts";

/** Opens the page: who it serves, the definitions, and what happens to them from now on. */
export async function openDesk(): Promise<void> {
  // Both are asked for at once: the second takes the longer.
  versionBy("files");
  try {
    session.value = await openSession();
    setClock(session.value.now);
  } catch (error) {
    closed.value = error instanceof Refused ? error.message : "The desk cannot be reached. It is tried again.";
    setTimeout(() => void openDesk(), 2_000);
    return;
  }
  closed.value = undefined;
  const files = versionBy("files");
  await fetched("files");
  // It was asked for before anybody was let in.
  if (files.peek().state === "failed") await fetchVersion("files", files);
  arrive();
  addEventListener("click", writeNow, { capture: true });
  addEventListener("hashchange", arrive);
  addEventListener("popstate", arrive);
  setInterval(tick, 1_000);
  hear();
}

/** Hears of changes; where the desk is gone, it is asked for until it is back. */
function hear(): void {
  const events = new EventSource("api/events");
  events.addEventListener("standing", ({ data }) => {
    connection.value = "open";
    void take(JSON.parse(data as string) as CurrentEvent);
  });
  events.addEventListener("error", () => {
    connection.value = "lost";
    if (events.readyState !== EventSource.CLOSED) return;
    setTimeout(() => {
      void openSession()
        .then((opened) => {
          session.value = opened;
          setClock(opened.now);
        })
        .catch(() => {})
        .finally(hear);
    }, 2_000);
  });
}

async function take({ version, draft }: CurrentEvent): Promise<void> {
  const files = versionBy("files");
  const standing = files.peek();
  const known = standing.state === "ready" ? standing.set.version : undefined;
  const isNew = known !== version;
  if (isNew) await fetchVersion("files", files);
  const drafted = heldVersion("draft");
  if (drafted && (isNew || draft !== draftNumber.peek())) await fetchVersion("draft", drafted);
  draftNumber.value = draft;
}
