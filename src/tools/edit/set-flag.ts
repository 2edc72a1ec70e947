import type { Loaded } from "../../folder/index.ts";
import type { FlagDefinition } from "../../model/types.ts";
import { at, type Path } from "../../problems/problem.ts";
import type { FlagEnvironmentSource, RuleSource } from "../../source/format.ts";
import { nearest, sentenceList } from "../../values/names.ts";
import { parsePercent } from "../../values/percent.ts";
import { ToolError } from "../tool-error.ts";
import type { FileChange } from "./change-folder.ts";
import type { Edit } from "./edit.ts";
import { editText } from "./edit-text.ts";
import { mustBeEnvironment } from "./suspend.ts";

/** What to set of a flag; each part that is given is set. */
export interface SetRequest {
  readonly flag: string;
  /** In the settings of one environment; in the flag's own if left out. */
  readonly environment?: string | undefined;
  /** Copies the settings of this environment into `environment`. */
  readonly like?: string | undefined;
  /** The name of a rule, or its number from 1; the only one that fits if left out. */
  readonly rule?: string | undefined;
  /** `25%`, or `none` to take the share out. */
  readonly share?: string | undefined;
  /** A value, or the name of a variant, as a text. */
  readonly give?: string | undefined;
  readonly otherwise?: string | undefined;
  readonly safe?: string | undefined;
  /** The rule's new place, from 1. */
  readonly place?: number | undefined;
}

const ruleOrder = ["name", "note", "when", "by", "salt", "share", "give", "split"];
const flagOrder =
  "about owner lifespan review-by links safe variants by salt provided rules otherwise environments for-instance".split(
    " ",
  );
const branchOrder = ["provided", "rules", "otherwise"];

/** The file of a flag with something of it set. */
export function setFlag(loaded: Loaded, request: SetRequest): FileChange {
  const { definitions } = loaded;
  if (!definitions) throw new ToolError("The definitions cannot be used as they are.", "mend them first: iudex check");
  const flag = definitions.flags.get(request.flag);
  if (!flag) {
    const near = nearest(request.flag, definitions.flags.keys());
    throw new ToolError(`There is no flag “${request.flag}”.`, near ? `did you mean ${near}?` : "see iudex list");
  }
  for (const name of [request.environment, request.like]) if (name !== undefined) mustBeEnvironment(name, loaded);
  const edits = new Setter(flag, request).edits();
  if (edits.length === 0) {
    throw new ToolError("There is nothing to set.", "say --share, --give, --otherwise, --safe, --place or --like");
  }
  const { file } = flag.place;
  return { file, text: editText(file, loaded.content.files.get(file)!.text, edits) };
}

class Setter {
  readonly #flag: FlagDefinition;
  readonly #request: SetRequest;

  constructor(flag: FlagDefinition, request: SetRequest) {
    this.#flag = flag;
    this.#request = request;
  }

  edits(): Edit[] {
    const { safe, otherwise, like } = this.#request;
    return [
      ...(like === undefined ? [] : this.#copy(like)),
      ...(safe === undefined ? [] : this.#safe(safe)),
      ...(otherwise === undefined ? [] : this.#otherwise(otherwise)),
      ...this.#ruleEdits(),
    ];
  }

  #path(...steps: (string | number)[]): Path {
    const { environment } = this.#request;
    const own = at(this.#flag.place, ...(environment === undefined ? [] : ["environments", environment]));
    return [...own.path, ...steps];
  }

  get #branch(): FlagEnvironmentSource | undefined {
    const { environment } = this.#request;
    return environment === undefined ? undefined : this.#flag.source.environments?.[environment];
  }

  #copy(like: string): Edit[] {
    const { environment, flag } = this.#request;
    if (environment === undefined || environment === like) {
      throw new ToolError("--like copies one environment's settings to another.", "say to which with --env");
    }
    const settings = this.#flag.source.environments?.[like];
    if (settings) return [{ edit: "set", path: this.#path(), value: settings, order: flagOrder }];
    if (this.#branch) return [{ edit: "remove", path: this.#path() }];
    throw new ToolError(
      `Neither ${like} nor ${environment} has settings of its own for ${flag}; they are alike already.`,
    );
  }

  #safe(text: string): Edit[] {
    if (this.#request.environment !== undefined) {
      throw new ToolError("The safe value is the same in every environment.", "leave --env out, or set --otherwise");
    }
    return [{ edit: "set", path: this.#path("safe"), value: this.#value(text), order: flagOrder }];
  }

  #otherwise(text: string): Edit[] {
    const order = this.#request.environment === undefined ? flagOrder : branchOrder;
    return [{ edit: "set", path: this.#path("otherwise"), value: this.#value(text), order }];
  }

  #ruleEdits(): Edit[] {
    const { share, give, place, rule } = this.#request;
    if (share === undefined && give === undefined && place === undefined) {
      if (rule === undefined) return [];
      throw new ToolError(`What is to be set of the rule “${rule}”?`, "say --share, --give or --place");
    }
    const rules = this.#rules();
    const index = this.#indexOf(rules);
    const changes: Edit[] = [];
    const inRule = (key: string): Path => this.#path("rules", index, key);
    if (share === "none") {
      if (rules[index]!.share === undefined) throw new ToolError(`${called(rules, index)} has no share.`);
      changes.push({ edit: "remove", path: inRule("share") });
    } else if (share !== undefined) {
      changes.push({ edit: "set", path: inRule("share"), value: percent(share), order: ruleOrder });
    }
    if (give !== undefined) {
      if (rules[index]!.split)
        throw new ToolError(
          `${called(rules, index)} has a split, which “give” would replace.`,
          "edit the file by hand",
        );
      changes.push({ edit: "set", path: inRule("give"), value: this.#value(give), order: ruleOrder });
    }
    if (place !== undefined) changes.push(...this.#move(rules, index, place));
    return this.#hasRules
      ? changes
      : [{ edit: "set", path: this.#path("rules"), value: rules, order: branchOrder }, ...changes];
  }

  /** An environment without rules of its own gets a copy of the flag's before one of them is changed. */
  get #hasRules(): boolean {
    return this.#request.environment === undefined || this.#branch?.rules !== undefined;
  }

  #rules(): readonly RuleSource[] {
    const rules = (this.#hasRules ? (this.#branch ?? this.#flag.source).rules : this.#flag.source.rules) ?? [];
    if (rules.length === 0)
      throw new ToolError(`${this.#flag.name} has no rules here.`, "set --otherwise, or write a rule into the file");
    return rules;
  }

  #move(rules: readonly RuleSource[], from: number, place: number): Edit[] {
    if (!Number.isInteger(place) || place < 1 || place > rules.length) {
      throw new ToolError(`There is no place ${place} among ${rules.length} rules.`, `write 1 to ${rules.length}`);
    }
    return from === place - 1 ? [] : [{ edit: "move", path: this.#path("rules"), from, to: place - 1 }];
  }

  #indexOf(rules: readonly RuleSource[]): number {
    const { rule, share } = this.#request;
    if (rule !== undefined) return indexByName(rule, rules);
    const fitting = rules.flatMap((each, i) => (share === undefined || each.share !== undefined ? [i] : []));
    if (fitting.length === 1) return fitting[0]!;
    throw new ToolError(
      `${this.#flag.name} has ${rules.length} rules; say which one is meant.`,
      `--rule and a name or number: ${sentenceList(
        rules.map((_, i) => called(rules, i)),
        "or",
      )}`,
    );
  }

  #value(text: string): unknown {
    const { type, variants, name } = this.#flag;
    if (variants) {
      if (variants.has(text)) return text;
      const near = nearest(text, variants.keys());
      throw new ToolError(
        `“${text}” is no variant of ${name}.`,
        near ? `did you mean ${near}?` : `write ${sentenceList([...variants.keys()], "or")}`,
      );
    }
    if (type === "text") return text;
    const value = jsonOf(text);
    const fits =
      type === "yes-no"
        ? typeof value === "boolean"
        : type === "number"
          ? typeof value === "number"
          : typeof value === "object" && value !== null;
    if (fits) return value;
    const wanted = { "yes-no": "true or false", number: "a number", data: "a JSON list or object" }[type];
    throw new ToolError(`“${text}” is no value of ${name}.`, `write ${wanted}`);
  }
}

function indexByName(rule: string, rules: readonly RuleSource[]): number {
  const named = rules.findIndex(({ name }) => name === rule);
  if (named >= 0) return named;
  const number = /^[0-9]+$/.test(rule) ? Number(rule) - 1 : -1;
  if (number >= 0 && number < rules.length) return number;
  const names = rules.flatMap(({ name }) => name ?? []);
  const near = nearest(rule, names) ?? names.find((name) => name.includes(rule));
  throw new ToolError(
    `There is no rule “${rule}”.`,
    near ? `did you mean “${near}”?` : `write a number from 1 to ${rules.length}`,
  );
}

function called(rules: readonly RuleSource[], index: number): string {
  const name = rules[index]!.name;
  return name === undefined ? `${index + 1}` : `${index + 1} (“${name}”)`;
}

function percent(text: string): string {
  if (parsePercent(text) !== undefined) return text;
  const help = parsePercent(`${text}%`) === undefined ? "write 25%, or none to take the share out" : `write ${text}%`;
  throw new ToolError(`“${text}” is no share.`, help);
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
