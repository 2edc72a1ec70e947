import type { Definitions, FlagDefinition } from "../model/index.ts";
import type { FlagOperandType, Scope } from "./condition.ts";
import { type NamedKind, readWhole, type Unread } from "./unread.ts";

/** What the set's conditions may name. */
export function scopeOf(set: Definitions, unread: Unread = readWhole): Scope {
  const isUnread = (kind: NamedKind, name: string) => unread.names.has(`${kind}:${name}`);
  return {
    attribute: (path) => set.attributes.get(path),
    attributeNames: [...set.attributes.keys()],
    cohorts: new Set(set.cohorts.keys()),
    windows: new Set(set.windows.keys()),
    environments: new Set(set.environments.keys()),
    flag: (name) => operandType(set.flags.get(name)) ?? (isUnread("flag", name) ? "unknown" : undefined),
    flagNames: [...set.flags.keys()],
    mayExist: (kind, name) => unread.incomplete || isUnread(kind, name),
    unread,
  };
}

/** What `flag:name` is in a condition. */
function operandType(flag: FlagDefinition | undefined): FlagOperandType | undefined {
  return flag?.variants ? [...flag.variants.keys()] : flag?.type;
}
