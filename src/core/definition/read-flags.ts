import { parseSplitPart } from "../buckets/split.ts";
import { deepFreeze, isObject, own, show, type ValueType, valueTypeOf } from "../data.ts";
import { nearest, sentenceList } from "../names.ts";
import { at, atKey, type Place, type Problems, pointer } from "../problems/problem.ts";
import type { Entry } from "./entries.ts";
import type { FlagSource } from "./file-shape.ts";
import { readRising } from "./read-rising.ts";
import { yesNoWords } from "./spelling.ts";
import type { FlagDefinition } from "./types.ts";

export function* readFlags(
  entries: readonly Entry[],
  problems: Problems,
): Generator<undefined, Map<string, FlagDefinition>, undefined> {
  const flags = new Map<string, FlagDefinition>();
  for (const entry of entries) {
    flags.set(entry.name, new FlagReader(entry, problems).read());
    yield;
  }
  return flags;
}

const typeWords: Readonly<Record<ValueType, string>> = {
  "yes-no": "true or false",
  number: "a number",
  text: "a text",
  data: "a list or an object",
};

/** Checks the values, shares and splits of one flag. The shape has been looked at, so odd parts are passed over. */
class FlagReader {
  readonly #entry: Entry;
  readonly #problems: Problems;
  readonly #source: Readonly<Record<string, unknown>>;
  readonly #variants: Map<string, unknown> | undefined;
  readonly #type: ValueType | undefined;

  constructor(entry: Entry, problems: Problems) {
    this.#entry = entry;
    this.#problems = problems;
    this.#source = isObject(entry.source) ? entry.source : {};
    const variants = own(this.#source, "variants");
    this.#variants = isObject(variants) ? new Map(Object.entries(variants)) : undefined;
    this.#type = this.#variants ? valueTypeOf([...this.#variants.values()][0]) : valueTypeOf(own(this.#source, "safe"));
  }

  read(): FlagDefinition {
    const { name, place, defaults } = this.#entry;
    this.#checkVariants();
    this.#checkValue(own(this.#source, "safe"), at(place, "safe"));
    this.#checkBranch(this.#source, place);
    this.#checkEnvironments();
    this.#checkExamples();
    const source = deepFreeze(this.#source) as unknown as FlagSource;
    return { name, place, defaults, source, type: this.#type ?? "text", variants: this.#variants };
  }

  #checkVariants(): void {
    if (!this.#variants || this.#type === undefined) return;
    for (const [name, value] of this.#variants) {
      const place = at(this.#entry.place, "variants", name);
      this.#warnOfYesNoWord(value, place);
      const type = valueTypeOf(value);
      if (type === undefined || type === this.#type) continue;
      const [first] = this.#variants.keys();
      this.#problems.report("value-type", place, {
        message: `All variants of a flag have one type; “${first}” is ${describe(this.#type)}.`,
        found: show(value),
        expected: typeWords[this.#type],
      });
    }
  }

  /** A value, or the name of a variant, that the flag can give. */
  #checkValue(value: unknown, place: Place): void {
    if (value === undefined || value === null) return;
    if (this.#variants) return this.#checkVariantName(value, place);
    this.#warnOfYesNoWord(value, place);
    const type = valueTypeOf(value);
    if (this.#type === undefined || type === this.#type) return;
    const word = typeof value === "string" && yesNoWords.test(value);
    this.#problems.report("value-type", place, {
      message: `The flag is ${describe(this.#type)}, as its safe value says; this is ${type ? describe(type) : "none of the types"}.`,
      found: show(value),
      expected: typeWords[this.#type],
      help: word && this.#type === "yes-no" ? `write ${/^(?:y|yes|on)$/i.test(value as string)}` : undefined,
      related: [{ place: at(this.#entry.place, "safe"), message: "the safe value" }],
    });
  }

  #checkVariantName(value: unknown, place: Place): void {
    const names = [...this.#variants!.keys()];
    if (typeof value === "string" && this.#variants!.has(value)) return;
    const byValue = names.find((name) => this.#variants!.get(name) === value);
    const near = byValue ?? (typeof value === "string" ? nearest(value, names) : undefined);
    this.#problems.report("unknown-variant", place, {
      message: `The flag has variants, and this is the name of none.`,
      found: show(value),
      expected: sentenceList(names, "or"),
      help: near && (byValue ? `write ${near}, the variant of that value` : `did you mean ${near}?`),
    });
  }

  #warnOfYesNoWord(value: unknown, place: Place): void {
    if (typeof value !== "string" || !yesNoWords.test(value)) return;
    if (this.#entry.document.spellings?.get(pointer(place.path)) !== value) return;
    const meant = /^(?:y|yes|on)$/i.test(value);
    this.#problems.report("looks-like-yes-no", place, {
      message: `“${value}” is a text here, not a yes-no.`,
      found: value,
      expected: "true or false, or a text in quotes",
      help: `write ${meant} if a yes-no is meant, "${value}" if the text is`,
    });
  }

  #checkBranch(branch: Readonly<Record<string, unknown>>, place: Place): void {
    this.#checkValue(own(branch, "otherwise"), at(place, "otherwise"));
    const rules = own(branch, "rules");
    if (!Array.isArray(rules)) return;
    for (const [i, rule] of rules.entries()) {
      if (isObject(rule)) this.#checkRule(rule, at(place, "rules", i));
    }
  }

  #checkEnvironments(): void {
    const environments = own(this.#source, "environments");
    if (!isObject(environments)) return;
    for (const name of Object.keys(environments)) {
      const branch = own(environments, name);
      if (isObject(branch)) this.#checkBranch(branch, at(this.#entry.place, "environments", name));
    }
  }

  #checkExamples(): void {
    const examples = own(this.#source, "for-instance");
    if (!Array.isArray(examples)) return;
    for (const [i, example] of examples.entries()) {
      if (isObject(example)) this.#checkValue(own(example, "gives"), at(this.#entry.place, "for-instance", i, "gives"));
    }
  }

  #checkRule(rule: Readonly<Record<string, unknown>>, place: Place): void {
    this.#checkValue(own(rule, "give"), at(place, "give"));
    const share = own(rule, "share");
    const split = own(rule, "split");
    if (isObject(share)) readRising(share, this.#entry.defaults, at(place, "share"), this.#problems);
    if (Array.isArray(split)) this.#checkSplit(split, at(place, "split"));
    const needsSubject = share !== undefined || split !== undefined;
    const by = own(rule, "by") ?? own(this.#source, "by") ?? own(this.#entry.defaults, "by");
    if (needsSubject && by === undefined) this.#reportNoSubject(place, share === undefined ? "split" : "share");
  }

  #reportNoSubject(place: Place, key: string): void {
    this.#problems.report("subject-missing", atKey(place, key), {
      message: `This ${key} does not say which attribute it goes by.`,
      expected: "“by” in the rule, in the flag or under “defaults” of this file",
      help: "add “by: account.id”, or the attribute that stays the same for one subject",
    });
  }

  #checkSplit(split: readonly unknown[], place: Place): void {
    if (!this.#variants) {
      this.#problems.report(
        "split-invalid",
        { ...place, part: "key" },
        {
          message: "A split divides variants, and this flag has none.",
          expected: "“variants” in the flag, or “give” in the rule",
        },
      );
      return;
    }
    const seen = new Set<string>();
    let total = 0;
    for (const [i, item] of split.entries()) {
      const part = typeof item === "string" ? parseSplitPart(item) : undefined;
      if (!part) return;
      total += part.parts;
      if (!this.#variants.has(part.variant)) this.#checkVariantName(part.variant, at(place, i));
      if (seen.has(part.variant)) {
        this.#problems.report("split-invalid", at(place, i), {
          message: `“${part.variant}” stands twice in this split.`,
          found: String(item),
          expected: "each variant at most once",
        });
      }
      seen.add(part.variant);
    }
    if (split.length > 0 && !(total > 0 && Number.isFinite(total))) {
      this.#problems.report("split-invalid", place, {
        message: "No part of this split has a weight.",
        expected: "at least one part greater than 0",
      });
    }
  }
}

function describe(type: ValueType): string {
  return type === "data" ? "data" : type === "yes-no" ? "a yes-no" : `a ${type}`;
}
