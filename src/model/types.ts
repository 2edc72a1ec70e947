import type { Bucket } from "../buckets/index.ts";
import type { TimeWindow } from "../calendar/index.ts";
import type { IdLookup } from "../ids/index.ts";
import type { AttributeType } from "../language/index.ts";
import type { Place } from "../problems/index.ts";
import type { DefaultsSource, EnvironmentSource, FlagSource } from "../source/index.ts";
import type { Range, ValueType } from "../values/index.ts";
import type { ConditionBook } from "./condition-book.ts";
import type { Suspension } from "./stops.ts";

/** A definition set: everything that a folder's files say, merged, resolved and checked. */
export interface Definitions {
  readonly environments: ReadonlyMap<string, EnvironmentDefinition>;
  /** By canonical path. */
  readonly attributes: ReadonlyMap<string, AttributeDefinition>;
  readonly cohorts: ReadonlyMap<string, CohortDefinition>;
  readonly windows: ReadonlyMap<string, WindowDefinition>;
  readonly flags: ReadonlyMap<string, FlagDefinition>;
  readonly suspensions: ReadonlyMap<string, Suspension>;
  /** Conditions, parsed once per text. @hidden */
  readonly conditions: ConditionBook;
  /** The first 32 hex digits of the SHA-256 of the set's canonical JSON. */
  readonly revision: string;
}

interface Named {
  readonly name: string;
  readonly place: Place;
}

/** An environment that a set declares. */
export interface EnvironmentDefinition extends Named {
  /** @hidden */
  readonly source: EnvironmentSource;
}

/** What a set declares of an attribute. */
export interface AttributeDefinition extends Named {
  readonly path: readonly string[];
  readonly type: AttributeType;
  readonly missingAs: unknown;
  /** Every test compares its texts in lower case. */
  readonly ignoreCase: boolean;
  readonly private: boolean;
  readonly about: string | undefined;
}

/** A named group of people: by a condition, by a list of ids, or by lot. */
export type CohortDefinition = ConditionCohort | ListCohort | LotCohort;

interface SomeCohort extends Named {
  readonly about: string | undefined;
}

/** People for whom a condition is true. */
export interface ConditionCohort extends SomeCohort {
  readonly kind: "condition";
  readonly when: string;
}

/** People whose id is in a list. */
export interface ListCohort extends SomeCohort {
  readonly kind: "list";
  readonly of: readonly string[];
  readonly ids: IdLookup;
  /** The salt, where the list holds salted digests in place of the ids. */
  readonly hashed: string | undefined;
  /** SHA-256 of the sorted set of ids. */
  readonly digest: string;
  /** Where the ids come from, for people: a file and column, or nothing for ids written in place. */
  readonly file: string | undefined;
  readonly column: string | undefined;
}

/** People by lot: those whose position lies in a share. */
export interface LotCohort extends SomeCohort {
  readonly kind: "lot";
  readonly by: readonly string[];
  readonly salt: string;
  readonly range: Range;
  /** @hidden */
  readonly bucket: Bucket;
}

/** A named span of time. */
export interface WindowDefinition extends Named {
  readonly about: string | undefined;
  /** @hidden */
  readonly window: TimeWindow;
  readonly hours: string | undefined;
}

/** A flag, read and checked. */
export interface FlagDefinition extends Named {
  /** The file that defines it. */
  readonly file: string;
  /** What stands in the file. @hidden */
  readonly source: FlagSource;
  /** @hidden */
  readonly defaults: DefaultsSource;
  readonly type: ValueType;
  readonly variants: ReadonlyMap<string, unknown> | undefined;
  /** Why a value does not keep the flag's schema; undefined where there is none, or nothing to check it by. @hidden */
  readonly schemaFault: ((value: unknown) => string | undefined) | undefined;
}
