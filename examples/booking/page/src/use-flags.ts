import { useEffect, useState } from "preact/hooks";
import { type PageFlags, pageVersion } from "./api.ts";

export interface LiveFlags {
  readonly revision: string;
  readonly values: PageFlags;
}

/** A browser opens few connections to one address, so the tabs of one person share a stream. */
type Told = { readonly live: LiveFlags } | { readonly hello: true };

/** Where the service turns a stream away, it is asked again after this many milliseconds, and a little more. */
const askAgain = 5_000;

/**
 * The flags of whoever looks at the page, from a stream of server-sent events: a saved definition file changes the open
 * page. What is shown stays until something else comes. `who` changes with the person, and begins a new stream.
 */
export function useFlags(who: string): LiveFlags | undefined {
  const [live, setLive] = useState<LiveFlags>();
  useEffect(() => followFlags(who, setLive), [who]);
  return live;
}

/** The first tab to get the lock listens for all of them; when it goes, another one does. */
function followFlags(who: string, tell: (live: LiveFlags) => void): () => void {
  const name = `flags ${who}`;
  const others = new BroadcastChannel(name);
  const left = new AbortController();
  let last: LiveFlags | undefined;
  const take = (live: LiveFlags) => {
    last = live;
    tell(live);
  };
  others.onmessage = ({ data }: MessageEvent<Told>) => {
    if ("live" in data) take(data.live);
    else if (last) others.postMessage({ live: last } satisfies Told);
  };
  others.postMessage({ hello: true } satisfies Told);
  navigator.locks
    .request(name, { signal: left.signal }, () =>
      listen(who, left.signal, (live) => {
        take(live);
        others.postMessage({ live } satisfies Told);
      }),
    )
    .catch(() => {
      // The page went on to somebody else before its turn came.
    });
  return () => {
    left.abort();
    others.close();
  };
}

/** Listens until the signal; comes back where the browser's own event source would not. */
function listen(who: string, signal: AbortSignal, tell: (live: LiveFlags) => void): Promise<void> {
  return new Promise((resolve) => {
    let stream: EventSource | undefined;
    let again: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      stream = new EventSource(`/api/flags/changes?app=${pageVersion}&who=${encodeURIComponent(who)}`);
      stream.addEventListener("flags", (event) => tell(JSON.parse((event as MessageEvent<string>).data) as LiveFlags));
      stream.addEventListener("error", () => {
        if (stream?.readyState === EventSource.CLOSED) again = setTimeout(open, askAgain * (1 + Math.random()));
      });
    };
    open();
    signal.addEventListener("abort", () => {
      clearTimeout(again);
      stream?.close();
      resolve();
    });
  });
}
