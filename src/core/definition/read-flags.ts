import { parseSplitPart } from "../buckets/split.ts";
import { deepFreeze, isObject, own, show, type ValueType, valueTypeOf } from "../data.ts";
import { nearest, sentenceList } from "../names.ts";
import { at, atKey, type Problems, pointer } from "../problems/problem.ts";
import type { Entry } from "./entries.ts";
import type { FlagSource } from "./file-shape.ts";
import { readRising } from "./read-rising.ts";
import { yesNoWords } from "./spelling.ts";
import type { FlagDefinition } from "./types.ts";
import { Walk } from "./walk.ts";

export function* readFlags(
  entries: readonly Entry[],
  problems: Problems,
): Generator<undefined, Map<string, FlagDefinition>, undefined> {
  const flags = new Map<string, FlagDefinition>();
  for (const entry of entries) {
    const known = entry.sound as FlagDefinition | undefined;
    flags.set(entry.name, known ?? readFlag(entry, problems));
    if (known === undefined || flags.size % pauseEvery === 0) yield;
  }
  return flags;
}

/** How many flags that need no work go between pauses. */
export const pauseEvery = 128;

function readFlag(entry: Entry, problems: Problems): FlagDefinition {
  const before = problems.all.length;
  const flag = new FlagReader(entry, problems).read();
  if (problems.all.length === before && entry.document.unchanging) entry.sound = flag;
  return flag;
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
  readonly #walk: Walk;
  readonly #source: Readonly<Record<string, unknown>>;
  readonly #variants: Map<string, unknown> | undefined;
  readonly #type: ValueType | undefined;

  constructor(entry: Entry, problems: Problems) {
    this.#entry = entry;
    this.#walk = new Walk(problems, entry.place.file);
    this.#walk.path.push(...entry.place.path);
    this.#source = isObject(entry.source) ? entry.source : {};
    const variants = own(this.#source, "variants");
    this.#variants = isObject(variants) ? new Map(Object.entries(variants)) : undefined;
    this.#type = this.#variants ? valueTypeOf([...this.#variants.values()][0]) : valueTypeOf(own(this.#source, "safe"));
  }

  read(): FlagDefinition {
    const { name, place, defaults } = this.#entry;
    if (this.#variants) this.#walk.inside("variants", () => this.#checkVariants());
    this.#checkMember(this.#source, "safe");
    this.#checkBranch(this.#source);
    this.#checkEnvironments();
    this.#checkExamples();
    const source = this.#source as unknown as FlagSource;
    const notes = { soundUnder: undefined, standsAlone: false };
    return { name, place, defaults, source, type: this.#type ?? "text", variants: this.#variants, notes };
  }

  #checkVariants(): void {
    for (const [name, value] of this.#variants!) this.#walk.inside(name, () => this.#checkVariant(value));
  }

  #checkVariant(value: unknown): void {
    this.#warnOfYesNoWord(value);
    const type = valueTypeOf(value);
    if (type === "data") deepFreeze(value);
    if (type === undefined || this.#type === undefined || type === this.#type) return;
    const [first] = this.#variants!.keys();
    this.#walk.report("value-type", {
      message: `All variants of a flag have one type; “${first}” is ${describe(this.#type)}.`,
      found: show(value),
      expected: typeWords[this.#type],
    });
  }

  /** A value, or the name of a variant, that the flag can give. */
  #checkMember(holder: Readonly<Record<string, unknown>>, key: string): void {
    const value = own(holder, key);
    if (value === undefined || value === null) return;
    this.#walk.path.push(key);
    this.#checkValue(value);
    this.#walk.path.pop();
  }

  #checkValue(value: unknown): void {
    if (this.#variants) return this.#checkVariantName(value, this.#variants);
    this.#warnOfYesNoWord(value);
    const type = valueTypeOf(value);
    if (type === "data") deepFreeze(value);
    if (this.#type === undefined || type === this.#type) return;
    const word = typeof value === "string" && yesNoWords.test(value);
    this.#walk.report("value-type", {
      message: `The flag is ${describe(this.#type)}, as its safe value says; this is ${type ? describe(type) : "none of the types"}.`,
      found: show(value),
      expected: typeWords[this.#type],
      help: word && this.#type === "yes-no" ? `write ${meansYes(value)}` : undefined,
      related: [{ place: at(this.#entry.place, "safe"), message: "the safe value" }],
    });
  }

  #checkVariantName(value: unknown, variants: ReadonlyMap<string, unknown>): void {
    if (typeof value === "string" && variants.has(value)) return;
    const names = [...variants.keys()];
    const byValue = names.find((name) => variants.get(name) === value);
    const near = byValue ?? (typeof value === "string" ? nearest(value, names) : undefined);
    this.#walk.report("unknown-variant", {
      message: "The flag has variants, and this is the name of none.",
      found: show(value),
      expected: sentenceList(names, "or"),
      help: near && (byValue ? `write ${near}, the variant of that value` : `did you mean ${near}?`),
    });
  }

  #warnOfYesNoWord(value: unknown): void {
    if (typeof value !== "string" || !yesNoWords.test(value)) return;
    if (this.#entry.document.spellings?.get(pointer(this.#walk.path)) !== value) return;
    this.#walk.report("looks-like-yes-no", {
      message: `“${value}” is a text here, not a yes-no.`,
      found: value,
      expected: "true or false, or a text in quotes",
      help: `write ${meansYes(value)} if a yes-no is meant, "${value}" if the text is`,
    });
  }

  #checkBranch(branch: Readonly<Record<string, unknown>>): void {
    this.#checkMember(branch, "otherwise");
    this.#checkEach(own(branch, "rules"), "rules", (rule) => this.#checkRule(rule));
  }

  /** Checks each object of a list. */
  #checkEach(list: unknown, key: string, check: (item: Readonly<Record<string, unknown>>) => void): void {
    if (!Array.isArray(list)) return;
    const { path } = this.#walk;
    for (let i = 0; i < list.length; i++) {
      if (!isObject(list[i])) continue;
      path.push(key, i);
      check(list[i]);
      path.length -= 2;
    }
  }

  #checkEnvironments(): void {
    const environments = own(this.#source, "environments");
    if (!isObject(environments)) return;
    this.#walk.inside("environments", () => {
      for (const name of Object.keys(environments)) {
        const branch = own(environments, name);
        if (isObject(branch)) this.#walk.inside(name, () => this.#checkBranch(branch));
      }
    });
  }

  #checkExamples(): void {
    this.#checkEach(own(this.#source, "for-instance"), "for-instance", (example) =>
      this.#checkMember(example, "gives"),
    );
  }

  #checkRule(rule: Readonly<Record<string, unknown>>): void {
    this.#checkMember(rule, "give");
    const share = own(rule, "share");
    const split = own(rule, "split");
    if (share === undefined && split === undefined) return;
    const { problems } = this.#walk;
    if (isObject(share)) readRising(share, this.#entry.defaults, at(this.#walk.place(), "share"), problems);
    if (Array.isArray(split)) this.#walk.inside("split", () => this.#checkSplit(split));
    const by = own(rule, "by") ?? own(this.#source, "by") ?? own(this.#entry.defaults, "by");
    if (by === undefined) this.#reportNoSubject(share === undefined ? "split" : "share");
  }

  #reportNoSubject(key: string): void {
    this.#walk.problems.report("subject-missing", atKey(this.#walk.place(), key), {
      message: `This ${key} does not say which attribute it goes by.`,
      expected: "“by” in the rule, in the flag or under “defaults” of this file",
      help: "add “by: account.id”, or the attribute that stays the same for one subject",
    });
  }

  #checkSplit(split: readonly unknown[]): void {
    if (!this.#variants) {
      this.#walk.reportKey("split-invalid", {
        message: "A split divides variants, and this flag has none.",
        expected: "“variants” in the flag, or “give” in the rule",
      });
      return;
    }
    const seen = new Set<string>();
    let total = 0;
    for (const [i, item] of split.entries()) {
      const part = typeof item === "string" ? parseSplitPart(item) : undefined;
      if (!part) return;
      total += part.parts;
      this.#walk.inside(i, () => this.#checkSplitPart(part.variant, seen));
    }
    if (split.length > 0 && !(total > 0 && Number.isFinite(total))) {
      this.#walk.report("split-invalid", {
        message: "No part of this split has a weight.",
        expected: "at least one part greater than 0",
      });
    }
  }

  #checkSplitPart(variant: string, seen: Set<string>): void {
    this.#checkVariantName(variant, this.#variants!);
    if (seen.has(variant)) {
      this.#walk.report("split-invalid", {
        message: `“${variant}” stands twice in this split.`,
        found: variant,
        expected: "each variant at most once",
      });
    }
    seen.add(variant);
  }
}

function describe(type: ValueType): string {
  return type === "data" ? "data" : type === "yes-no" ? "a yes-no" : `a ${type}`;
}

function meansYes(word: unknown): boolean {
  return /^(?:y|yes|on)$/i.test(String(word));
}
