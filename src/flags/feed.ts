import type { PartChange } from "../insight/index.ts";
import type { FlagsEvents } from "./events.ts";
import type { StandingOverrides } from "./standing-overrides.ts";
import type { DefinitionStore, State } from "./store.ts";

/** What keeps the definitions of some flags up to date: a watched folder, say. */
export interface Feed {
  close(): Promise<void>;
  /** Somebody went back to an earlier revision. */
  wentBack?(): void;
}

/** What a feed may do to the flags that it feeds. */
export interface Feeding {
  readonly store: DefinitionStore;
  readonly overrides: StandingOverrides;
  allowsLocalOverrides(): boolean;
  /** Puts the next state into force, and tells what changed if anything did. */
  advance(next: State, changes: readonly PartChange[], why?: string): void;
  emit<K extends keyof FlagsEvents>(event: K, value: FlagsEvents[K]): void;
  report(message: string, problems?: FlagsEvents["problem"]["problems"]): void;
}
