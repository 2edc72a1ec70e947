import type { TimeWindow } from "../calendar/window.ts";
import type { IdSet } from "../ids/id-set.ts";
import type { Place } from "../problems/problem.ts";
import type { AttributeTypeName, DefaultsSource, EnvironmentSource, FlagSource } from "../source/format.ts";
import type { ValueType } from "../values/data.ts";
import type { ConditionBook } from "./condition-book.ts";

/** A definition set: everything that a folder's files say, merged and checked. */
export interface Definitions {
  readonly environments: ReadonlyMap<string, EnvironmentDefinition>;
  /** By canonical path. */
  readonly attributes: ReadonlyMap<string, AttributeDefinition>;
  readonly cohorts: ReadonlyMap<string, CohortDefinition>;
  readonly windows: ReadonlyMap<string, WindowDefinition>;
  readonly flags: ReadonlyMap<string, FlagDefinition>;
  readonly suspensions: ReadonlyMap<string, Suspension>;
  /** Conditions, parsed once per text. */
  readonly conditions: ConditionBook;
  /** The first 12 hex digits of the SHA-256 of the set's canonical JSON. */
  readonly revision: string;
}

interface Named {
  readonly name: string;
  readonly place: Place;
}

export interface EnvironmentDefinition extends Named {
  readonly source: EnvironmentSource;
}

export type AttributeType = AttributeTypeName | readonly string[];

export interface AttributeDefinition extends Named {
  readonly path: readonly string[];
  readonly type: AttributeType;
  readonly missingAs: unknown;
  readonly private: boolean;
  readonly about: string | undefined;
}

export type CohortDefinition = ConditionCohort | ListCohort;

export interface ConditionCohort extends Named {
  readonly kind: "condition";
  readonly about: string | undefined;
  readonly when: string;
}

export interface ListCohort extends Named {
  readonly kind: "list";
  readonly about: string | undefined;
  readonly of: readonly string[];
  readonly ids: IdSet;
  /** SHA-256 of the sorted set of ids. */
  readonly digest: string;
  /** Where the ids come from, for people: a file and column, or nothing for ids written in place. */
  readonly file: string | undefined;
  readonly column: string | undefined;
}

export interface WindowDefinition extends Named {
  readonly about: string | undefined;
  readonly window: TimeWindow;
  readonly hours: string | undefined;
}

export interface FlagDefinition extends Named {
  readonly source: FlagSource;
  readonly defaults: DefaultsSource;
  readonly type: ValueType;
  readonly variants: ReadonlyMap<string, unknown> | undefined;
  // What has been found out about the flag is kept with it rather than in tables beside it: a flag of a file that has
  // not changed is the same object from reading to reading, and tables of ten thousand weak keys cost more than all the
  // checks together (measured).
  /** The names that it could refer to when it was found sound; undefined while it has not been. @internal */
  soundUnder: string | undefined;
  /** No condition of it refers to a flag, cohort or window. @internal */
  standsAlone: boolean;
}

export interface Suspension {
  readonly flag: string;
  readonly place: Place;
  readonly since: string | undefined;
  readonly who: string | undefined;
  readonly note: string | undefined;
  /** Every environment if undefined. */
  readonly in: readonly string[] | undefined;
}
