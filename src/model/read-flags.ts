import { at, type Place, type Problems, pointer } from "../problems/index.ts";
import {
  type DefaultsSource,
  type Entry,
  type FlagEnvironmentSource,
  type FlagSource,
  noShare,
  parseSplitPart,
  type RuleSource,
  Walk,
  yesNoWords,
} from "../source/index.ts";
import { deepFreeze, nearest, sentenceList, show, type ValueType, valueTypeOf } from "../values/index.ts";
import { checkAdjustments } from "./check-adjust.ts";
import { reportNoSubject } from "./read-cohorts.ts";
import { checkRising } from "./read-rising.ts";
import type { SchemaPort } from "./schemas.ts";
import type { FlagDefinition } from "./types.ts";

const typeWords: Readonly<Record<ValueType, string>> = {
  "yes-no": "true or false",
  number: "a number",
  text: "a text",
  data: "a list or an object",
};

type Variants = ReadonlyMap<string, unknown> | undefined;

/** Why a value does not keep the schema of its flag; undefined if it does. */
export type SchemaCheck = (value: unknown) => string | undefined;

/** A flag as read. It may outlive its file's data, of which it keeps nothing else. */
class ReadFlag implements FlagDefinition {
  readonly name: string;
  readonly source: FlagSource;
  readonly type: ValueType;
  readonly variants: Variants;
  readonly schemaFault: SchemaCheck | undefined;
  readonly file: string;
  readonly defaults: DefaultsSource;

  constructor(entry: Entry<FlagSource>, type: ValueType, variants: Variants, schemaFault: SchemaCheck | undefined) {
    this.name = entry.name;
    this.source = entry.source;
    this.type = type;
    this.variants = variants;
    this.schemaFault = schemaFault;
    this.file = entry.document.file;
    this.defaults = entry.defaults;
  }

  get place(): Place {
    return { file: this.file, path: ["flags", this.name] };
  }
}

/** Reads the flags of a file, one after the other, and checks their values, shares and splits. */
export class FlagReader {
  readonly #schemas: SchemaPort | undefined;
  readonly #walk: Walk;
  #entry: Entry<FlagSource>;
  #source: FlagSource;
  #type: ValueType = "text";
  #variants: Variants;
  /** Data values, and where they stand, for the schema. */
  #values: { readonly value: unknown; readonly place: Place }[] = [];

  /** @param first any flag of the file */
  constructor(first: Entry<FlagSource>, problems: Problems, schemas: SchemaPort | undefined) {
    this.#schemas = schemas;
    this.#walk = new Walk(problems, first.document.file);
    this.#entry = first;
    this.#source = first.source;
  }

  read(entry: Entry<FlagSource>): FlagDefinition {
    const { variants, safe } = entry.source;
    this.#entry = entry;
    this.#source = entry.source;
    this.#variants = variants && new Map(Object.entries(variants));
    this.#type = valueTypeOf(this.#variants ? [...this.#variants.values()][0] : safe) ?? "text";
    if (this.#values.length > 0) this.#values = [];
    this.#walk.path[0] = entry.section.key;
    this.#walk.path[1] = entry.name;
    this.#check();
    return new ReadFlag(entry, this.#type, this.#variants, this.#checkSchema());
  }

  #check(): void {
    if (this.#variants) this.#walk.inside("variants", () => this.#checkVariants());
    this.#checkMember("safe", this.#source.safe);
    this.#checkSettings(this.#source);
    this.#checkEnvironments();
    this.#checkExamples();
  }

  #checkVariants(): void {
    for (const [name, value] of this.#variants!) this.#walk.inside(name, () => this.#checkVariant(value));
  }

  #checkVariant(value: unknown): void {
    this.#warnOfYesNoWord(value);
    const type = valueTypeOf(value);
    if (type === "data") this.#noteData(value);
    if (type === undefined || type === this.#type) return;
    const [first] = this.#variants!.keys();
    this.#walk.report("value-type", {
      message: `All variants of a flag have one type; “${first}” is ${describe(this.#type)}.`,
      found: show(value),
      expected: typeWords[this.#type],
    });
  }

  /** One value is handed to every caller, so nobody may change it. */
  #noteData(value: unknown): void {
    deepFreeze(value);
    if (this.#source.schema !== undefined) this.#values.push({ value, place: this.#walk.place() });
  }

  /** A value, or the name of a variant, that the flag can give. */
  #checkMember(key: string, value: unknown): void {
    // Most values: nothing to look into, and no word that could be mistaken.
    if (value === undefined || (typeof value === "boolean" && this.#type === "yes-no" && !this.#variants)) return;
    this.#walk.path.push(key);
    this.#checkValue(value);
    this.#walk.path.pop();
  }

  #checkValue(value: unknown): void {
    if (this.#variants) return this.#checkVariantName(value, this.#variants);
    this.#warnOfYesNoWord(value);
    const type = valueTypeOf(value);
    if (type === "data") this.#noteData(value);
    if (type === this.#type) return;
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

  #checkSettings({ otherwise, rules }: FlagEnvironmentSource): void {
    this.#checkMember("otherwise", otherwise);
    if (rules === undefined) return;
    const { path } = this.#walk;
    for (let i = 0; i < rules.length; i++) {
      path.push("rules", i);
      this.#checkRule(rules[i]!, rules[i]!.by);
      path.pop();
      path.pop();
    }
  }

  #checkEnvironments(): void {
    const { environments } = this.#source;
    if (environments === undefined) return;
    for (const [name, settings] of Object.entries(environments)) {
      this.#walk.path.push("environments", name);
      this.#checkSettings(settings);
      checkAdjustments(this.#source, settings, this.#walk, (rule, by) => this.#checkRule(rule, by));
      this.#walk.path.length = 2;
    }
  }

  #checkExamples(): void {
    const { path } = this.#walk;
    for (const [i, { gives }] of (this.#source["for-instance"] ?? []).entries()) {
      path.push("for-instance", i);
      this.#checkMember("gives", gives);
      path.length = 2;
    }
  }

  /** Also what an environment puts in place of a rule's own; then `by` is that of the rule. */
  #checkRule({ give, share, split }: Pick<RuleSource, "give" | "share" | "split">, by: string | undefined): void {
    this.#checkMember("give", give);
    if (share === undefined && split === undefined) return;
    const { problems } = this.#walk;
    if (typeof share === "object") checkRising(share, this.#entry.defaults, at(this.#walk.place(), "share"), problems);
    if (split !== undefined) this.#walk.inside("split", () => this.#checkSplit(split));
    if (share === noShare && split === undefined) return;
    if ((by ?? this.#source.by ?? this.#entry.defaults.by) === undefined)
      reportNoSubject(share === undefined ? "split" : "share", this.#walk.place(), problems);
  }

  #checkSplit(split: readonly string[]): void {
    if (!this.#variants) {
      this.#walk.reportKey("split-invalid", {
        message: "A split divides variants, and this flag has none.",
        expected: "“variants” in the flag, or “give” in the rule",
      });
      return;
    }
    // What could not be read has been reported, and is not here.
    if (split.length === 0) return;
    const seen = new Set<string>();
    let total = 0;
    for (const [i, item] of split.entries()) {
      const part = parseSplitPart(item);
      if (!part) return;
      total += part.parts;
      this.#walk.inside(i, () => this.#checkSplitPart(part.variant, seen));
    }
    if (total > 0 && Number.isFinite(total)) return;
    this.#walk.report("split-invalid", {
      message: "No part of this split has a weight.",
      expected: "at least one part greater than 0",
    });
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

  /** Holds every value against the flag's schema; gives the check for the values that overrides will bring. */
  #checkSchema(): SchemaCheck | undefined {
    const { schema } = this.#source;
    const schemas = this.#schemas;
    if (schema === undefined) return undefined;
    const place = at(this.#entry.place, "schema");
    const { problems } = this.#walk;
    if (this.#type !== "data") {
      problems.report("schema-misplaced", place, {
        message: `A schema is for a flag of data, and this one is ${describe(this.#type)}.`,
        expected: "no schema, or a list or an object as the safe value",
      });
      return undefined;
    }
    if (!schemas) {
      problems.report("schema-unchecked", place, { message: "Nothing here can hold values against a schema." });
      return undefined;
    }
    const compiled = schemas.compile(schema);
    if (compiled.fault) {
      const { code, path = [], ...details } = compiled.fault;
      problems.report(code, at(place, ...path), details);
      return undefined;
    }
    for (const { value, place: where } of this.#values) {
      const fault = compiled.faultOf(value);
      if (fault) this.#reportViolation(fault.message, value, at(where, ...fault.path));
    }
    return (value) => {
      const fault = compiled.faultOf(value);
      return fault && `${fault.path.length > 0 ? `${fault.path.join(".")}: ` : ""}${fault.message}`;
    };
  }

  #reportViolation(message: string, value: unknown, place: Place): void {
    this.#walk.problems.report("schema-violated", place, {
      message: `This value does not keep the flag's schema: ${message}.`,
      found: show(value),
      related: [{ place: at(this.#entry.place, "schema"), message: "the schema" }],
    });
  }
}

function describe(type: ValueType): string {
  return type === "data" ? "data" : type === "yes-no" ? "a yes-no" : `a ${type}`;
}

function meansYes(word: unknown): boolean {
  return /^(?:y|yes|on)$/i.test(String(word));
}
