import type { FlagDefinition } from "../model/index.ts";
import type { Problems } from "../problems/index.ts";
import type { SourceFile } from "../source/index.ts";

/** What was found out about one file, for as long as it stays the same object. */
export interface FileMemory {
  readonly file: SourceFile | undefined;
  /** How many flags it defines. */
  readonly count: number;
  /** The schemas of its flags. */
  readonly schemas: readonly unknown[];
  /** Of its shape. */
  readonly problems: Problems;
  /** Its flags, read. */
  readonly flags: Map<string, FlagDefinition>;
  /** Flags that must be read again the next time: something was found, or they depend on another file. */
  unsettled: string[];
  /** The names under which its flags were found sound; undefined while they were not. */
  soundUnder: SoundUnder | undefined;
  /** The flags that refer to a flag, cohort or window. */
  referring: readonly string[];
}

/** What the soundness of a file's flags depends on. */
export interface SoundUnder {
  /** The names that any condition can depend on: attributes, cohorts, windows, environments. */
  readonly names: string;
  /** All flags with their types; undefined where no flag of the file refers to anything. */
  readonly flags: string | undefined;
}
