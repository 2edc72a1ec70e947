import type { FollowPageOptions } from "./page-flags.ts";

/** What a page asks of its service. */
export type Address = "changes" | "values" | "seen";

/** Undefined where there is no such address. */
export type Ask = (at: Address, init: RequestInit) => Promise<Response> | undefined;

/** @param query by which the service is to know the person, as it is now */
export function asking(options: Pick<FollowPageOptions, Address | "headers">, query: () => string): Ask {
  return (at, init) => {
    const address = options[at];
    if (!address) return undefined;
    const more = query() && (address.includes("?") ? "&" : "?") + query();
    return fetch(address + more, { ...init, headers: { ...options.headers?.(), ...init.headers } });
  };
}
