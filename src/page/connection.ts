import { whenInView } from "./browser.ts";
import type { Note } from "./notes.ts";
import type { Told } from "./page-flags.ts";
import { readPieces, takeEvents } from "./reading.ts";
import type { Ask } from "./requests.ts";
import { toldIn } from "./told.ts";

/** Is handed what the service tells. */
export type Take = (told: Told) => void;

/** How a page stays in touch with its service. */
export interface Line {
  readonly ask: Ask;
  /** The last values that the service sent: it sends only newer ones. */
  last(): Told | undefined;
  readonly note: Note;
}

/** Within this something is heard first; milliseconds. */
const patience = 10_000;

/** Within this something is heard again, if only that the service is still there; milliseconds. */
const furtherPatience = 45_000;

/** A line on which the last was heard longer ago than this may be dead when the page wakes; milliseconds. */
const stale = 20_000;

/** Between two tries, by chance half as much more or less; milliseconds. */
const shortestPause = 1_000;
const longestPause = 30_000;

/**
 * Follows the stream until the signal. Where it breaks, asks for the values once and tries again: later each time, by
 * chance so that not all pages come at once, and at once when the page wakes. A service that says when to come back is not
 * asked sooner.
 */
export async function stayInTouch({ ask, last, note }: Line, take: Take, signal: AbortSignal): Promise<void> {
  let round = new AbortController();
  let timer: ReturnType<typeof setTimeout>;
  let goOn = () => {};
  let isAwake = false;
  let failures = 0;
  // Epoch milliseconds: when something was heard last, and before when the service is not to be asked.
  let heard = 0;
  let notBefore = 0;

  const wake = () => {
    isAwake = true;
    if (signal.aborted || Date.now() - heard > stale) round.abort();
    goOn();
  };
  const endAfter = (milliseconds: number) => {
    clearTimeout(timer);
    timer = setTimeout(() => round.abort(), milliseconds);
  };
  const sleep = (milliseconds: number) =>
    new Promise<void>((resolve) => {
      goOn = resolve;
      setTimeout(resolve, milliseconds);
    });
  const read = readers(take, note, () => {
    failures = 0;
    heard = Date.now();
    endAfter(furtherPatience);
  });
  const attempt = async (at: "changes" | "values", accept: string) => {
    round = new AbortController();
    endAfter(patience);
    try {
      const id = last()?.id ?? "";
      const headers = { accept, "last-event-id": id, "if-none-match": `W/"${id}"` };
      const response = await ask(at, { signal: round.signal, headers });
      if (response) notBefore = returnAt(response);
      const body = response && bodyOf(response, accept);
      if (body) await read[at](body);
    } catch (error) {
      if (!signal.aborted) note(at, error);
    }
    // Nothing of the round goes on.
    round.abort();
    clearTimeout(timer);
  };
  whenInView(true, wake, signal);
  globalThis.addEventListener?.("online", wake, { signal });
  signal.addEventListener("abort", wake);
  while (!signal.aborted) {
    isAwake = false;
    failures++;
    await attempt("changes", "text/event-stream");
    if (failures && !signal.aborted) await attempt("values", "application/json");
    // Step by step, since no timer can be set a year ahead.
    while (Date.now() < notBefore && !signal.aborted) await sleep(shortestPause);
    if (!isAwake) await sleep(Math.min(longestPause, shortestPause * 2 ** failures) * (0.5 + Math.random()));
  }
}

/**
 * What is done with an answer of each address.
 *
 * @param hear is called for whatever comes of the stream, if only that the service is still there
 */
function readers(take: Take, note: Note, hear: () => void) {
  return {
    changes: (body: ReadableStream) =>
      readPieces(body, (text) =>
        takeEvents(text, ({ event, data, "": comment }) => {
          if (event === "flags") take(toldIn(data!));
          else if (comment === undefined) return;
          hear();
          note("changes");
        }),
      ),
    async values(body: ReadableStream) {
      take(toldIn(await readPieces(body, (text) => text)));
      note("values");
    },
  };
}

/** Before when the service is not to be asked again, by what it says: seconds, or a date. */
function returnAt({ headers }: Response): number {
  const after = headers.get("retry-after");
  return Date.now() + Number(after) * 1_000 || Date.parse(after!);
}

/** @returns undefined where nothing is new @throws for what was not asked for, such as a page for signing in */
function bodyOf({ status, headers, body }: Response, accept: string): ReadableStream | null | undefined {
  if (status === 304) return undefined;
  const type = headers.get("content-type");
  if (status === 200 && type?.startsWith(accept)) return body;
  throw Error(`found ${status} ${type}, not 200 ${accept}`);
}
