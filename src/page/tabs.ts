import type { Told } from "./page-flags.ts";

/**
 * Shares one connection among the tabs of a browser, which opens few to one address. The first tab to get the lock follows
 * for all of them until the signal; when it goes, another one does. A tab that comes later asks by an empty message.
 *
 * @param last what this tab was told last
 * @param follow hands what it is told to its function
 */
export function shareAmongTabs(
  name: string,
  signal: AbortSignal,
  last: () => Told | undefined,
  take: (told: Told) => void,
  follow: (tell: (told: Told) => void) => void,
): void {
  const others = new BroadcastChannel(name);
  const tell = (told: Told) => {
    take(told);
    others.postMessage(told);
  };
  others.onmessage = ({ data }: MessageEvent<Told | undefined>) => (data ? take(data) : others.postMessage(last()));
  others.postMessage(undefined);
  signal.addEventListener("abort", () => others.close());
  navigator.locks
    .request(name, { signal }, () => {
      follow(tell);
      return new Promise((resolve) => signal.addEventListener("abort", resolve));
    })
    // It went before its turn came, and does nothing then, or gets no turn here.
    .catch(() => follow(tell));
}
