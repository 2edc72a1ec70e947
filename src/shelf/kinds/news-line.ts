import { setTimeout as sleep } from "node:timers/promises";
import { callingOff, within } from "../deadline.ts";
import { ShelfFault } from "../faults.ts";
import type { Heard, Hearing } from "../place.ts";

/** How long an engine may take to answer, in milliseconds. */
export const answerTime = 5_000;

/** How often a connection for news proves that it still hears, in milliseconds. */
const proveEvery = 15_000;

/** Milliseconds after which a lost connection is made again. */
export const againAfter = 500;

/** A connection of an engine, kept for hearing of news. */
export interface NewsLine {
  /** Settles once it has heard something that it told itself. */
  prove(): Promise<unknown>;
  end(): void;
}

/** How an engine makes such a connection. */
export interface NewsLines {
  /** How the shelf is called in messages. */
  readonly called: string;
  /** Makes one that listens; `lost` is told what ends it later. What fails here leaves nothing behind. */
  open(lost: (error: unknown) => void, calledOff: AbortSignal): Promise<NewsLine>;
  /** What the engine means by an error. */
  wordsOf(error: unknown): string;
}

/** Keeps one connection for hearing of news; a lost or silent one is made again. */
export function hearNews(lines: NewsLines, heard: Heard): Hearing {
  const closing = callingOff();
  const following = (async () => {
    while (!closing.signal.aborted) {
      const error = await oneLine(lines, heard, closing.signal);
      if (closing.signal.aborted) return;
      heard.failed(
        `${lines.called} tells no news: ${error instanceof ShelfFault ? "it is silent" : lines.wordsOf(error)}.`,
      );
      await sleep(againAfter, undefined, { ref: false, signal: closing.signal }).catch(() => {});
    }
  })();
  return {
    close: () => {
      closing.abort();
      return following;
    },
  };
}

/** Hears over one connection until it is lost. @returns why it was */
async function oneLine(lines: NewsLines, heard: Heard, closing: AbortSignal): Promise<unknown> {
  const round = callingOff();
  let why: unknown;
  const lost = (error: unknown) => {
    why ??= error;
    round.abort();
  };
  closing.addEventListener("abort", lost, { once: true });
  let line: NewsLine | undefined;
  try {
    line = await lines.open(lost, round.signal);
    // Whatever was told while nobody listened is looked for.
    heard.changed();
    for (;;) {
      await sleep(proveEvery, undefined, { ref: false, signal: round.signal });
      await within(answerTime, lines.called, round.signal, line.prove);
    }
  } catch (error) {
    return why ?? error;
  } finally {
    closing.removeEventListener("abort", lost);
    line?.end();
  }
}
