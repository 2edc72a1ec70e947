import { createHmac } from "node:crypto";
import { type Explanation, explain } from "../insight/index.ts";
import {
  type FlagSet,
  HarmlessCopy,
  idText,
  type Outcome,
  type Overrides,
  Question,
  readPath,
  type Verdict,
} from "../judge/index.ts";
import { printPath } from "../language/index.ts";
import { pathOf, subjectOf } from "../model/index.ts";
import { TRUE } from "../values/index.ts";
import type { AskedBy, OutsideRule, VerdictEvent } from "./verdict-events.ts";

/** What a verdict was given for. */
export interface Telling {
  readonly outcome: Outcome;
  readonly set: FlagSet;
  readonly context: unknown;
  /** Epoch milliseconds. */
  readonly at: number;
  readonly overrides: Overrides | undefined;
  readonly asked: AskedBy;
  /** The key by which private subjects are told as a digest. */
  readonly subjectKey: string | undefined;
}

/** A verdict as it is told to listeners; what takes work is found out when somebody looks. */
export class ToldVerdict implements VerdictEvent {
  readonly at: Date;
  readonly environment: string | undefined;
  readonly verdict: Verdict;
  readonly asked: AskedBy;
  readonly #telling: Telling;

  constructor(telling: Telling) {
    const { outcome, set, at, asked } = telling;
    this.at = new Date(at);
    this.environment = set.environment;
    this.verdict = outcome.verdict(set.revision);
    this.asked = asked;
    this.#telling = telling;
  }

  get subject(): string | undefined {
    const { outcome, set, context, subjectKey } = this.#telling;
    const flag = set.definitions.flags.get(outcome.flag);
    const path = flag ? pathOf(subjectOf(flag)) : [];
    if (path.length === 0) return undefined;
    const id = idText(readPath(new HarmlessCopy(context).take([path]), path));
    if (id === undefined || !set.definitions.attributes.get(printPath(path))?.private) return id;
    return subjectKey === undefined
      ? "•••"
      : createHmac("sha256", subjectKey).update(id).digest("base64url").slice(0, 22);
  }

  get outside(): readonly OutsideRule[] {
    const { outcome, set, context, at, overrides } = this.#telling;
    const flag = set.flag(outcome.flag);
    if (!flag || (outcome.cause !== "rule" && outcome.cause !== "otherwise")) return [];
    const outside: OutsideRule[] = [];
    const question = new Question(set.harmless(context, outcome.flag), () => at, overrides);
    flag.decide(question, {
      provided: () => {},
      rule: ({ rule }, { answer, id, inside }) => {
        if (answer !== TRUE || inside || id === undefined) return;
        outside.push({ rule: rule.number, ...(rule.name === undefined ? {} : { ruleName: rule.name }) });
      },
    });
    return outside;
  }

  explain(): Explanation | undefined {
    const { outcome, set, context, at, overrides } = this.#telling;
    return explain(set, outcome.flag, context, { at, overrides });
  }
}
