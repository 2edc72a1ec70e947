import { FlagsError } from "../flags/index.ts";
import type { ChangeHub, Listener } from "./change-hub.ts";
import type { PinnedRequest } from "./pinner.ts";

/** Counted in characters: an approximation that is exact for ASCII, which JSON mostly is. */
const buffered = 1 << 20;

/** A page that listens to a stream, but for how it is written to. */
type Page<C> = Pick<Listener<C>, "isLast" | "again" | "failed" | "known" | "address">;

/** The stream of a page's events, until the signal. */
export function streamOf<C>(
  hub: ChangeHub<C>,
  settled: PinnedRequest<C>,
  signal: AbortSignal,
  page: Page<C>,
): ReadableStream<Uint8Array> {
  let remove: (() => void) | undefined;
  return new ReadableStream<Uint8Array>(
    {
      start(controller) {
        const ending = (how: () => void) => () => {
          remove?.();
          remove = undefined;
          signal.removeEventListener("abort", end);
          try {
            how();
          } catch {
            // It was closed from the other side.
          }
        };
        const end = ending(() => controller.close());
        remove = hub.add({ ...page, ...writing(controller, end, ending) }, settled);
        signal.addEventListener("abort", end);
        if (signal.aborted) end();
      },
      cancel() {
        remove?.();
      },
    },
    new ByteLengthQueuingStrategy({ highWaterMark: buffered }),
  );
}

const encoder = new TextEncoder();

/** How a page is written to. */
function writing(
  controller: ReadableStreamDefaultController<Uint8Array>,
  end: () => void,
  ending: (how: () => void) => () => void,
): Pick<Listener<unknown>, "send" | "waiting" | "end" | "drop"> {
  return {
    send: (text) => {
      try {
        controller.enqueue(encoder.encode(text));
      } catch {
        end();
      }
    },
    waiting: () => buffered - (controller.desiredSize ?? buffered),
    end,
    // What waits is forgotten, which a stream that is merely closed would still hand out.
    drop: ending(() => controller.error(new FlagsError("The client takes nothing."))),
  };
}
