import type { FastifyRequest } from "fastify";
import { pageVersion } from "./page-catalogue.js";
import { type Traveller, travellerBy } from "./travellers.js";

export const signedInCookie = "traveller";
export const triedCookie = "tried-attributes";

/** What is known of the person behind a request. */
export interface BookingContext extends Partial<Omit<Traveller, "name">> {
  readonly app: { readonly version: string | undefined };
}

/**
 * Gathered once a request: who signed in, and which version of the page asks. Where a developer may override flags,
 * attributes that were edited in the drawer come on top.
 */
export function contextOf(request: FastifyRequest, mayTry: boolean): BookingContext {
  const version = request.headers["app-version"];
  const known = { app: { version: typeof version === "string" ? version : pageVersionOf(request) } };
  const tried = mayTry ? triedAttributes(request.cookies[triedCookie]) : undefined;
  if (tried) return { ...known, ...tried };
  const traveller = travellerBy(request.cookies[signedInCookie]);
  if (!traveller) return known;
  const { name: _, ...attributes } = traveller;
  return { ...known, ...attributes };
}

/** What the page asks of its flags tells the version in the address; the page itself is always the newest. */
function pageVersionOf({ query, url }: FastifyRequest): string | undefined {
  const { app } = query as { readonly app?: unknown };
  return typeof app === "string" ? app : url === "/" ? pageVersion : undefined;
}

function triedAttributes(cookie: string | undefined): object | undefined {
  try {
    const tried: unknown = JSON.parse(cookie ?? "");
    return typeof tried === "object" && tried !== null && !Array.isArray(tried) ? tried : undefined;
  } catch {
    return undefined;
  }
}
