import { type Condition, type ParsedCondition, parseCondition, printPath, testsOf } from "../language/index.ts";
import { type NodeKey, nodeKey } from "./node.ts";

/** What one condition looks at, directly. */
export interface Looks {
  /** Flags, cohorts and windows. */
  readonly references: readonly NodeKey[];
  /** Attributes, by canonical path. */
  readonly attributes: ReadonlyMap<string, readonly string[]>;
}

/**
 * Conditions by their text: a set's flags repeat each other, and reading, compiling and analysis all want the same
 * tree.
 */
export class ConditionBook {
  readonly #parsed = new Map<string, ParsedCondition>();

  get(text: string): ParsedCondition {
    let parsed = this.#parsed.get(text);
    if (parsed === undefined) {
      parsed = parseCondition(text);
      this.#parsed.set(text, parsed);
    }
    return parsed;
  }

  /** What a text refers to by name: most conditions ask for attributes only. */
  references(text: string): readonly NodeKey[] {
    const { condition } = this.get(text);
    return condition && refers(condition) ? looksOf(condition).references : none;
  }

  looks(text: string): Looks {
    const { condition } = this.get(text);
    return condition ? looksOf(condition) : { references: none, attributes: new Map() };
  }
}

const none: readonly NodeKey[] = [];

export function looksOf(condition: Condition): Looks {
  const references: NodeKey[] = [];
  const attributes = new Map<string, readonly string[]>();
  for (const test of testsOf(condition)) {
    if (test.kind !== "test") references.push(nodeKey(test.kind, test.name));
    else if (test.operand.kind === "flag") references.push(nodeKey("flag", test.operand.name));
    else if (test.operand.kind === "path") attributes.set(printPath(test.operand.path), test.operand.path);
  }
  return { references, attributes };
}

function refers(condition: Condition): boolean {
  switch (condition.kind) {
    case "and":
    case "or":
      return condition.parts.some(refers);
    case "not":
      return refers(condition.part);
    case "test":
      return condition.operand.kind === "flag";
    default:
      return true;
  }
}
