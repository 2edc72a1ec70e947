import { useEffect, useState } from "preact/hooks";
import { type PageFlags, pageVersion } from "./api.ts";

export interface LiveFlags {
  readonly revision: string;
  readonly values: PageFlags;
}

/**
 * The flags of whoever looks at the page, from a stream of server-sent events: a saved definition file changes the open
 * page. What is shown stays until something else comes. `who` changes with the person, and begins a new stream.
 */
export function useFlags(who: string): LiveFlags | undefined {
  const [live, setLive] = useState<LiveFlags>();
  useEffect(() => {
    const stream = new EventSource(`/api/flags/changes?app=${pageVersion}&who=${encodeURIComponent(who)}`);
    stream.addEventListener("flags", (event) => setLive(JSON.parse((event as MessageEvent<string>).data) as LiveFlags));
    return () => stream.close();
  }, [who]);
  return live;
}
