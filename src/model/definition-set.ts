import { revisionOf } from "./revision.ts";
import type { Definitions } from "./types.ts";

/** The merged set. Its revision is worked out when first asked for. */
export class DefinitionSet implements Definitions {
  readonly environments: Definitions["environments"];
  readonly attributes: Definitions["attributes"];
  readonly cohorts: Definitions["cohorts"];
  readonly windows: Definitions["windows"];
  readonly flags: Definitions["flags"];
  readonly suspensions: Definitions["suspensions"];
  readonly conditions: Definitions["conditions"];
  #revision: string | undefined;

  constructor(parts: Omit<Definitions, "revision">) {
    this.environments = parts.environments;
    this.attributes = parts.attributes;
    this.cohorts = parts.cohorts;
    this.windows = parts.windows;
    this.flags = parts.flags;
    this.suspensions = parts.suspensions;
    this.conditions = parts.conditions;
  }

  /** This set with other suspensions. */
  withSuspensions(suspensions: Definitions["suspensions"]): DefinitionSet {
    return new DefinitionSet({ ...this, suspensions });
  }

  /** Takes a revision that was worked out elsewhere, a piece at a time. */
  settleRevision(revision: string): void {
    this.#revision ??= revision;
  }

  /** Whether the revision need not be worked out any more. */
  get isSettled(): boolean {
    return this.#revision !== undefined;
  }

  get revision(): string {
    this.#revision ??= revisionOf(this);
    return this.#revision;
  }
}
