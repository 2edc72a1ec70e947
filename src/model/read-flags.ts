import { parseSplitPart } from "../buckets/split.ts";
import { at, atKey, type Place, Problems, pointer } from "../problems/problem.ts";
import { Entry } from "../source/entries.ts";
import type { DefaultsSource, FlagSource } from "../source/format.ts";
import { yesNoWords } from "../source/spelling.ts";
import { Walk } from "../source/walk.ts";
import { deepFreeze, isObject, type Plain, show, type ValueType, valueTypeOf } from "../values/data.ts";
import { nearest, sentenceList } from "../values/names.ts";
import { readRising } from "./read-rising.ts";
import type { FlagDefinition } from "./types.ts";

export function* readFlags(
  entries: readonly Entry[],
  problems: Problems,
): Generator<undefined, Map<string, FlagDefinition>, undefined> {
  const flags = new Map<string, FlagDefinition>();
  let work = 0;
  for (let i = 0; i < entries.length; i++) {
    const entry = entries[i]!;
    const known = entry.sound as FlagDefinition | undefined;
    flags.set(entry.name, known ?? reader.read(entry, problems));
    work += known === undefined ? pauseEvery / freshAtOnce : 1;
    if (work < pauseEvery) continue;
    work = 0;
    yield;
  }
  reader.forget();
  return flags;
}

/** How many flags that need no work go between pauses. */
export const pauseEvery = 128;
/** How many go that need some. */
export const freshAtOnce = 16;

const typeWords: Readonly<Record<ValueType, string>> = {
  "yes-no": "true or false",
  number: "a number",
  text: "a text",
  data: "a list or an object",
};

/** A flag as read. Sets have many, so it leaves to its entry what the entries of a file have in common. */
class ReadFlag implements FlagDefinition {
  readonly name: string;
  readonly source: FlagSource;
  readonly type: ValueType;
  readonly variants: ReadonlyMap<string, unknown> | undefined;
  soundUnder: string | undefined;
  standsAlone: boolean;
  private readonly entry: Entry;

  constructor(entry: Entry, source: FlagSource, type: ValueType, variants: ReadonlyMap<string, unknown> | undefined) {
    this.name = entry.name;
    this.source = source;
    this.type = type;
    this.variants = variants;
    this.soundUnder = undefined;
    this.standsAlone = false;
    this.entry = entry;
  }

  get place(): Place {
    return this.entry.place;
  }

  get defaults(): DefaultsSource {
    return this.entry.defaults;
  }
}

const noSource: Plain = {};
const noEntry = new Entry("", noSource, { key: "flags", document: { file: "", data: noSource }, defaults: {} });
const noWalk = new Walk(new Problems(), "");

/**
 * Checks the values, shares and splits of flags, one after the other. The shape has been looked at, so odd parts are
 * passed over.
 */
class FlagReader {
  #entry = noEntry;
  #walk = noWalk;
  #source: Plain = noSource;
  #variants: ReadonlyMap<string, unknown> | undefined;
  #type: ValueType | undefined;

  read(entry: Entry, problems: Problems): FlagDefinition {
    const before = problems.all.length;
    this.#begin(entry, problems);
    if (this.#variants) this.#walk.inside("variants", () => this.#checkVariants());
    this.#checkMember("safe", this.#source["safe"]);
    this.#checkBranch(this.#source);
    this.#checkEnvironments();
    this.#checkExamples();
    const flag = new ReadFlag(entry, this.#source as unknown as FlagSource, this.#type ?? "text", this.#variants);
    if (problems.all.length === before && entry.document.unchanging) entry.sound = flag;
    return flag;
  }

  /** Lets go of the flag read last, and of its file. */
  forget(): void {
    this.#entry = noEntry;
    this.#walk = noWalk;
    this.#source = noSource;
    this.#variants = undefined;
  }

  #begin(entry: Entry, problems: Problems): void {
    this.#entry = entry;
    const { file } = entry.document;
    if (this.#walk.file !== file || this.#walk.problems !== problems) this.#walk = new Walk(problems, file);
    const { path } = this.#walk;
    path[0] = entry.section.key;
    path[1] = entry.name;
    this.#source = isObject(entry.source) ? entry.source : noSource;
    const { variants } = this.#source;
    this.#variants = isObject(variants) ? new Map(Object.entries(variants)) : undefined;
    this.#type = this.#variants ? valueTypeOf([...this.#variants.values()][0]) : valueTypeOf(this.#source["safe"]);
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
  #checkMember(key: string, value: unknown): void {
    if (value === undefined || value === null) return;
    this.#walk.path.push(key);
    this.#checkValue(value);
    this.#walk.path.pop();
  }

  #checkValue(value: unknown): void {
    // Most values: nothing to look into, and no word that could be mistaken.
    if (typeof value === "boolean" && this.#type === "yes-no" && this.#variants === undefined) return;
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

  #checkBranch(branch: Plain): void {
    this.#checkMember("otherwise", branch["otherwise"]);
    const rules = branch["rules"];
    if (!Array.isArray(rules)) return;
    const { path } = this.#walk;
    for (let i = 0; i < rules.length; i++) {
      path.push("rules", i);
      if (isObject(rules[i])) this.#checkRule(rules[i]);
      path.pop();
      path.pop();
    }
  }

  #checkEnvironments(): void {
    const environments = this.#source["environments"];
    if (!isObject(environments)) return;
    this.#walk.inside("environments", () => {
      for (const name of Object.keys(environments)) {
        const branch = environments[name];
        if (isObject(branch)) this.#walk.inside(name, () => this.#checkBranch(branch));
      }
    });
  }

  #checkExamples(): void {
    const examples = this.#source["for-instance"];
    if (!Array.isArray(examples)) return;
    const { path } = this.#walk;
    for (let i = 0; i < examples.length; i++) {
      path.push("for-instance", i);
      if (isObject(examples[i])) this.#checkMember("gives", examples[i]["gives"]);
      path.pop();
      path.pop();
    }
  }

  #checkRule(rule: Plain): void {
    this.#checkMember("give", rule["give"]);
    const { share, split } = rule;
    if (share === undefined && split === undefined) return;
    const { problems } = this.#walk;
    if (isObject(share)) readRising(share, this.#entry.defaults, at(this.#walk.place(), "share"), problems);
    if (Array.isArray(split)) this.#walk.inside("split", () => this.#checkSplit(split));
    const by = rule["by"] ?? this.#source["by"] ?? this.#entry.defaults.by;
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

/** One reader for all flags: reading one is never interrupted, and its code stays warm from reload to reload. */
const reader = new FlagReader();

function describe(type: ValueType): string {
  return type === "data" ? "data" : type === "yes-no" ? "a yes-no" : `a ${type}`;
}

function meansYes(word: unknown): boolean {
  return /^(?:y|yes|on)$/i.test(String(word));
}
