// What stands on a shelf, read by a few lines of their own.
import type { ListName } from "../../../src/shelf/index.ts";

interface Stopped {
  readonly suspended: Readonly<Record<string, unknown>>;
}

interface Listed {
  /** Says what the files of the edition hold. */
  readonly note: string;
}

export function payloadOf(text: string): unknown {
  const { payload } = JSON.parse(text) as { readonly payload: string };
  return JSON.parse(Buffer.from(payload, "base64url").toString("utf8"));
}

/** Flags that can be stopped. All of them give true, and false while they are stopped. */
export const switches = ["intake", "kiosk", "refunds", "seat-map"];

/** The files of a set that tells which one it is, in two of them, so that no two sets can be mixed unseen. */
export function filesOf(token: number, stopped: string | undefined): Record<string, string> {
  const flags = switches.map((name) => `  ${name}:\n    safe: false\n    otherwise: true\n`).join("");
  return {
    "left.yaml": `iudex: 1\nflags:\n  left:\n    safe: 0\n    otherwise: ${token}\n${flags}`,
    "right.json": JSON.stringify({ iudex: 1, flags: { right: { safe: 0, otherwise: token } } }),
    ...(stopped === undefined ? {} : { "suspended.yaml": `iudex: 1\nsuspended:\n  ${stopped}: {}\n` }),
  };
}

/** What the note of an edition says that its files hold. */
export function noteOf(token: number, stopped: string | undefined): string {
  return `${token} ${stopped ?? ""}`;
}

export function heldBy(edition: string): { readonly token: number; readonly stopped: string | undefined } {
  const [token, stopped] = (payloadOf(edition) as Listed).note.split(" ");
  return { token: Number(token), stopped: stopped || undefined };
}

/** The flags that a list of stops stops. */
export function stoppedBy(list: string | undefined): ReadonlySet<string> {
  return new Set(list === undefined ? [] : Object.keys((payloadOf(list) as Stopped).suspended));
}

export function newestOf(lists: ReadonlyMap<number, string>): number {
  return Math.max(0, ...lists.keys());
}

export type Lists = (name: ListName) => ReadonlyMap<number, string>;
