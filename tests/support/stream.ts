import { createParser } from "eventsource-parser";
import { onTestFinished } from "vitest";

export interface Told {
  readonly event: string | undefined;
  readonly data: { revision: string; id: string; values: Record<string, unknown> };
}

/** Listens to a stream until the test is over; `next` waits for an event that has not been taken yet. */
export function listen(url: string, init: RequestInit) {
  const end = new AbortController();
  onTestFinished(() => end.abort());
  const told: Told[] = [];
  let comments = 0;
  let wake = () => {};
  let isOver = false;
  const parser = createParser({
    onEvent: ({ event, data }) => {
      told.push({ event, data: JSON.parse(data) as Told["data"] });
      wake();
    },
    onComment: () => {
      comments++;
    },
  });
  const opened = fetch(url, { ...init, signal: end.signal });
  const ended = opened
    .then(async ({ body }) => {
      for await (const chunk of body!.pipeThrough(new TextDecoderStream())) parser.feed(chunk);
    })
    .catch(() => {})
    .then(() => {
      isOver = true;
      wake();
    });
  let taken = 0;
  return {
    opened,
    /** Resolves when there will be no more. */
    ended,
    comments: () => comments,
    end: () => end.abort(),
    next: async (): Promise<Told> => {
      while (told.length <= taken) {
        if (isOver) throw new Error(`the stream ended after ${taken} events`);
        await new Promise<void>((resolve) => (wake = resolve));
      }
      return told[taken++]!;
    },
  };
}
