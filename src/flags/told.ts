import { createHmac } from "node:crypto";
import { murmur3 } from "../buckets/index.ts";
import { type Explanation, explain } from "../insight/index.ts";
import {
  type FlagSet,
  HarmlessCopy,
  idText,
  isPlainContext,
  type Outcome,
  type Overrides,
  Question,
  readPath,
  type Verdict,
} from "../judge/index.ts";
import { printPath } from "../language/index.ts";
import { TRUE } from "../values/index.ts";
import type { AskedBy, DrawnId, OutsideRule, TellableVerdict } from "./verdict-events.ts";

/** What a verdict was given for. */
export interface Telling {
  readonly outcome: Outcome;
  readonly set: FlagSet;
  readonly context: unknown;
  readonly overrides: Overrides | undefined;
  readonly asked: AskedBy;
}

/**
 * A verdict as it is told to listeners. Everything in it is found out when somebody looks: most events are made for
 * listeners that drop them at a glance.
 */
export class ToldVerdict implements TellableVerdict {
  /** Holds the context, and so must not be seen by whoever writes the event down. */
  readonly #telling: Telling;
  readonly #at: number;
  readonly #subjectKey: string | undefined;

  /**
   * @param at epoch milliseconds
   * @param subjectKey the key by which private subjects are told as a digest
   */
  constructor(telling: Telling, at: number, subjectKey: string | undefined) {
    this.#telling = telling;
    this.#at = at;
    this.#subjectKey = subjectKey;
  }

  /** Where its subject stands among all; see `positionOf`. */
  get position(): number {
    const { outcome, set, context } = this.#telling;
    return positionOf(outcome, set, context);
  }

  get at(): Date {
    return new Date(this.#at);
  }

  get environment(): string | undefined {
    return this.#telling.set.environment;
  }

  get verdict(): Verdict {
    const { outcome, set } = this.#telling;
    return outcome.verdict(set.revision);
  }

  get asked(): AskedBy {
    return this.#telling.asked;
  }

  get subject(): string | undefined {
    const { outcome, set, context } = this.#telling;
    return this.#shown(subjectOf(outcome, set, context), set.subject(outcome.flag).path);
  }

  get drawn(): DrawnId | undefined {
    return this.#draws.drawn;
  }

  get outside(): readonly OutsideRule[] {
    return this.#draws.outside;
  }

  get whom(): string {
    const { subject } = this;
    if (!this.#canDraw) return subject === undefined ? "" : `=${subject}`;
    const { drawn, outside } = this.#draws;
    return JSON.stringify([subject, drawn, outside]);
  }

  /** Whether a rule that was asked has a share or a split: most have none, and nobody need look whom they drew. */
  get #canDraw(): boolean {
    const { outcome, set } = this.#telling;
    const asked = outcome.rule ?? Number.POSITIVE_INFINITY;
    const rules = set.flag(outcome.flag)?.here.rules ?? [];
    return rules.some(({ division, number }) => division !== undefined && number <= asked);
  }

  /** Whom the rules drew on the way to the verdict. */
  get #draws(): { readonly drawn: DrawnId | undefined; readonly outside: readonly OutsideRule[] } {
    const { outcome, set, context, overrides } = this.#telling;
    const flag = set.flag(outcome.flag);
    if (!flag || (outcome.cause !== "rule" && outcome.cause !== "otherwise")) return { drawn: undefined, outside: [] };
    let drawn: DrawnId | undefined;
    const outside: OutsideRule[] = [];
    const question = new Question(set.harmless(context, outcome.flag), () => this.#at, overrides);
    flag.decide(question, {
      provided: () => {},
      rule: ({ rule }, { answer, id, inside }) => {
        if (answer !== TRUE || id === undefined || !rule.division) return;
        const { by } = rule.division;
        const shown = { by: printPath(by), id: this.#shown(id, by)! };
        if (inside) drawn = shown;
        else outside.push({ rule: rule.number, ...(rule.name === undefined ? {} : { ruleName: rule.name }), ...shown });
      },
    });
    return { drawn, outside };
  }

  /** An id as it is told: where its attribute is private as "•••", or as a keyed digest. */
  #shown(id: string | undefined, path: readonly string[]): string | undefined {
    const isPrivate = this.#telling.set.definitions.attributes.get(printedPath(path))?.private;
    if (id === undefined || !isPrivate) return id;
    return this.#subjectKey === undefined
      ? "•••"
      : createHmac("sha256", this.#subjectKey).update(id).digest("base64url").slice(0, 22);
  }

  get undecided(): readonly string[] {
    const { outcome, set, context, overrides } = this.#telling;
    return set.undecided(outcome, context, () => this.#at, overrides);
  }

  /** What is written down of it. */
  toJSON(): object {
    const { at, environment, verdict, asked, subject } = this;
    return { at, environment, verdict, asked, subject, ...this.#draws };
  }

  /** What `console.log` shows of it. */
  [Symbol.for("nodejs.util.inspect.custom")](): object {
    return this.toJSON();
  }

  explain(): Explanation | undefined {
    const { outcome, set, context, overrides } = this.#telling;
    return explain(set, outcome.flag, context, { at: this.#at, overrides });
  }
}

/** The paths of subjects are the same objects again and again. */
const printed = new WeakMap<readonly string[], string>();

function printedPath(path: readonly string[]): string {
  const known = printed.get(path);
  if (known !== undefined) return known;
  const text = printPath(path);
  printed.set(path, text);
  return text;
}

/** Where the subject stands among all, from 0 to 1, however it is told of: what is told of a part of them goes by this. */
export function positionOf(outcome: Outcome, set: FlagSet, context: unknown): number {
  return murmur3(subjectOf(outcome, set, context) ?? outcome.flag) / 2 ** 32;
}

function subjectOf({ origin, flag }: Outcome, set: FlagSet, context: unknown): string | undefined {
  const { path, read } = origin === undefined ? set.subject(flag) : origin.subject;
  try {
    if (isPlainContext(context)) return idText(read(context));
  } catch {
    // A getter, a proxy: read again of a harmless copy.
  }
  return path.length === 0 ? undefined : idText(readPath(new HarmlessCopy(context).take([path]), path));
}
