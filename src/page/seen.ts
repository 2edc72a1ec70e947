import type { Note } from "./notes.ts";
import type { Ask } from "./requests.ts";

/** Reports are gathered for this long; milliseconds. */
const gathered = 1_000;

/** What a page has asked for, reported many at a time. */
export interface SeenReports {
  /** @param once it is reported once for this */
  saw(once: string, name: string): void;
  /** Reports what has not been reported yet; it arrives although the page goes. What does not goes with the next report. */
  report(): void;
}

export function seenReports(ask: Ask, note: Note): SeenReports {
  const seen = new Set<string>();
  let waiting: string[] = [];
  const send = async (names: readonly string[]) => {
    try {
      const response = await ask("seen", { method: "POST", body: JSON.stringify({ seen: names }), keepalive: true });
      if (!response!.ok) throw Error(`found ${response!.status}`);
      note("seen");
    } catch (error) {
      waiting.push(...names);
      note("seen", error);
    }
  };
  const report = () => {
    if (waiting.length) send(waiting);
    waiting = [];
  };
  return {
    saw(once, name) {
      if (seen.has(once)) return;
      seen.add(once);
      waiting.push(name);
      // The first of them finds all that was gathered, the others nothing.
      setTimeout(report, gathered);
    },
    report,
  };
}
