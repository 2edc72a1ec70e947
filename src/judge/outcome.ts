import type { Subject } from "./context/subject.ts";

/** Why a flag gave its value. */
export type Cause = "override" | "suspended" | "withheld" | "rule" | "otherwise" | "fallback";

/** Where an override came from: `IUDEX_OVERRIDES`, `overrides.local.yaml`, a pass, or the program itself. */
export type OverrideLayer = "variable" | "local-file" | "pass" | "code";

/** The answer for one flag and one context. Frozen, and the same object whenever the same answer is given. */
export interface Verdict<Value = unknown> {
  readonly flag: string;
  readonly value: Value;
  /** The variant's name; undefined where the flag has none. */
  readonly variant: string | undefined;
  readonly cause: Cause;
  /** The number, from 1, of the rule that decided, among those that were asked. */
  readonly rule: number | undefined;
  /** The name of that rule, if it has one. */
  readonly ruleName?: string;
  /** The revision of the definition set; undefined where no set was asked. */
  readonly revision: string | undefined;
  /** Where an override came from. */
  readonly overriddenBy?: OverrideLayer;
  /** Why a fallback was given. */
  readonly problem?: "unknown-flag" | "wrong-type";
}

/** The flag that came out in a way. */
export interface Origin {
  readonly subject: Subject;
}

interface OutcomeParts {
  readonly flag: string;
  readonly value: unknown;
  readonly variant?: string | undefined;
  readonly cause: Cause;
  readonly rule?: number | undefined;
  readonly ruleName?: string | undefined;
  readonly overriddenBy?: OverrideLayer | undefined;
  readonly problem?: Verdict["problem"];
  readonly origin?: Origin | undefined;
}

/** One of the ways in which a flag can come out. Its verdict is built when first asked for. */
export class Outcome {
  readonly flag: string;
  readonly value: unknown;
  readonly variant: string | undefined;
  readonly cause: Cause;
  readonly rule: number | undefined;
  readonly ruleName: string | undefined;
  readonly overriddenBy: OverrideLayer | undefined;
  readonly problem: Verdict["problem"] | undefined;
  /** Undefined where something stood in for the flag. */
  readonly origin: Origin | undefined;
  private latest: Verdict | undefined;

  constructor(parts: OutcomeParts) {
    this.flag = parts.flag;
    this.value = parts.value;
    this.variant = parts.variant;
    this.cause = parts.cause;
    this.rule = parts.rule;
    this.ruleName = parts.ruleName;
    this.overriddenBy = parts.overriddenBy;
    this.problem = parts.problem;
    this.origin = parts.origin;
    this.latest = undefined;
  }

  verdict(revision: string | undefined): Verdict {
    if (this.latest === undefined || this.latest.revision !== revision) this.latest = this.build(revision);
    return this.latest;
  }

  private build(revision: string | undefined): Verdict {
    const { flag, value, variant, cause, rule, ruleName, overriddenBy, problem } = this;
    return Object.freeze({
      flag,
      value,
      variant,
      cause,
      rule,
      ...(ruleName === undefined ? {} : { ruleName }),
      revision,
      ...(overriddenBy === undefined ? {} : { overriddenBy }),
      ...(problem === undefined ? {} : { problem }),
    });
  }

  /** What `flag:name` reads in a condition: the variant's name where the flag has variants, else the value. */
  seenBy(hasVariants: boolean): unknown {
    return hasVariants ? this.variant : this.value;
  }
}
