import type { Definitions, FlagDefinition, NodeKind } from "../model/index.ts";
import type { FlagOperandType, Scope } from "./condition.ts";

type Named = NodeKind | "environment";

/** What is known of a set beyond what could be read of it. */
export interface Unread {
  /** True when files are missing from the set: anything may be defined there. */
  readonly incomplete: boolean;
  /** Names that files give to what could not be read. */
  has(kind: Named, name: string): boolean;
}

/** A set that was read whole. */
export const readWhole: Unread = { incomplete: false, has: () => false };

/** What the set's conditions may name. */
export function scopeOf(set: Definitions, unread: Unread = readWhole): Scope {
  return {
    attribute: (path) => set.attributes.get(path),
    attributeNames: [...set.attributes.keys()],
    cohorts: new Set(set.cohorts.keys()),
    windows: new Set(set.windows.keys()),
    environments: new Set(set.environments.keys()),
    flag: (name) => operandType(set.flags.get(name)) ?? (unread.has("flag", name) ? "unknown" : undefined),
    flagNames: [...set.flags.keys()],
    mayExist: (kind, name) => unread.incomplete || unread.has(kind, name),
  };
}

/** What `flag:name` is in a condition. */
function operandType(flag: FlagDefinition | undefined): FlagOperandType | undefined {
  return flag?.variants ? [...flag.variants.keys()] : flag?.type;
}
