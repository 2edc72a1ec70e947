import type { PartChange } from "../insight/index.ts";
import type { CurrentOverrides } from "./current-overrides.ts";
import type { FlagsEvents } from "./events.ts";
import type { HealthProblem } from "./health.ts";
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
  readonly overrides: CurrentOverrides;
  allowsLocalOverrides(): boolean;
  /** Puts the next state into force, and tells what changed if anything did. */
  advance(next: State, changes: readonly PartChange[], why?: string): void;
  emit<K extends keyof FlagsEvents>(event: K, value: FlagsEvents[K]): void;
  /** What is in force is what the source says now. */
  sound(): void;
  /** What the source says now cannot be used, or is not known. */
  unsound(problems: readonly HealthProblem[]): void;
  report(message: string, problems?: FlagsEvents["problem"]["problems"]): void;
}
