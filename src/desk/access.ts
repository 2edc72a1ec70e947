import { createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import type { Visitor } from "./protocol.ts";

/** What a request says of where it comes from. */
export interface Asking {
  readonly method: string;
  header(name: string): string | undefined;
}

/** Why a request is not answered. */
export interface Refusal {
  readonly status: 403;
  readonly title: string;
  readonly detail?: string;
}

export const tokenHeader = "desk-token";

/** The names of this machine for itself. */
const loopback = ["localhost", "127.0.0.1", "[::1]"];

/**
 * Holds requests against forgery: under which names the desk is served, where a request comes from, and the token that
 * only a page of this desk can have read.
 */
export class Access {
  readonly #hosts: ReadonlySet<string>;
  readonly #secret: Buffer | string;

  /** @param secret what tokens are made from; another one at every start if left out */
  constructor(hosts: readonly string[] = loopback, secret?: string) {
    this.#hosts = new Set(hosts.map((host) => host.toLowerCase()));
    this.#secret = secret ?? randomBytes(32);
  }

  tokenOf({ name }: Visitor): string {
    return createHmac("sha256", this.#secret).update(name).digest("base64url");
  }

  /** False for a request under a foreign name, as a page elsewhere would make it whose name was turned to this machine. */
  isServedUnder(host: string): boolean {
    return this.#hosts.has(hostOf(host));
  }

  /** A request that a page of somebody else has made. */
  refuseOrigin(asking: Asking): Refusal | undefined {
    const site = asking.header("sec-fetch-site");
    const origin = asking.header("origin");
    const isForeign = origin !== undefined && originHost(origin) !== asking.header("host")?.toLowerCase();
    const isElsewhere = site !== undefined && site !== "same-origin" && site !== "none";
    if (!isForeign && !isElsewhere) return undefined;
    return { status: 403, title: "Only a page of this desk may ask this." };
  }

  /** A request that changes something needs the token of the session. */
  refuseToken(asking: Asking, visitor: Visitor): Refusal | undefined {
    const given = Buffer.from(asking.header(tokenHeader) ?? "");
    const wanted = Buffer.from(this.tokenOf(visitor));
    if (given.length === wanted.length && timingSafeEqual(given, wanted)) return undefined;
    return { status: 403, title: "The session is over.", detail: "Ask for another one: GET api/session." };
  }
}

/** Without the port, which a proxy may have changed. */
function hostOf(header: string): string {
  return header.toLowerCase().replace(/:\d+$/, "");
}

function originHost(origin: string): string | undefined {
  try {
    return new URL(origin).host;
  } catch {
    return undefined;
  }
}
