import { type Signal, signal } from "@preact/signals";
import type { SessionAnswer } from "../../desk/index.ts";

/** Whether the page hears of changes. */
export type Connection = "opening" | "open" | "lost";

/** Who the page serves; undefined until that is known. */
export const session: Signal<SessionAnswer | undefined> = signal(undefined);
export const connection: Signal<Connection> = signal<Connection>("opening");
/** Why the desk cannot be opened at all. */
export const closed: Signal<string | undefined> = signal(undefined);
/** The number of the draft that the desk knows; it grows with every change. */
export const draftNumber: Signal<number> = signal(0);
/** What is left to be done by hand of what was written last. */
export const unrecorded: Signal<string | undefined> = signal(undefined);
