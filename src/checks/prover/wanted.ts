import type { AttributeTest, Test } from "../../language/index.ts";

/** What is asked of an answer. */
export type Mode = "true" | "false" | "not-true" | "not-false";

/** A test with what is asked of its answer. */
export interface Wanted {
  readonly test: Test;
  readonly mode: Mode;
}

/** A test of an attribute, with what is asked of its answer. */
export interface AttributeWanted {
  readonly test: AttributeTest;
  readonly mode: Mode;
}

/** What may be taken for granted while looking for a context. */
export interface Assumptions {
  /** The environments that come into question; all declared ones if left out. */
  readonly environments?: readonly string[] | undefined;
  /** Values are of their declared type, or missing. */
  readonly declaredTypes?: boolean;
}
