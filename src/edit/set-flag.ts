import { type Loaded, ToolError } from "../files/index.ts";
import { type FlagDefinition, flagIn, settingsIn } from "../model/index.ts";
import { at, type Path } from "../problems/index.ts";
import type { FlagEnvironmentSource, RuleSource } from "../source/index.ts";
import { difference } from "./difference.ts";
import type { Edit } from "./edit.ts";
import type { FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { flagCalled } from "./find-flag.ts";
import { indexOfRule, ruleCalledIn } from "./find-rule.ts";
import { flagOrder, ruleOrder, settingsOrder } from "./flag-keys.ts";
import { givenValue, shareValue, splitTexts } from "./read-values.ts";
import { mustBeEnvironment } from "./suspend.ts";

/** What to set of a flag; each part that is given is set. */
export interface SetRequest {
  readonly flag: string;
  /** In one environment; in the flag's own settings if left out. */
  readonly environment?: string | undefined;
  /** Copies the settings of this environment into `environment`. */
  readonly like?: string | undefined;
  /** The name of a rule, or its number from 1; the only one that fits if left out. */
  readonly rule?: string | undefined;
  /** The condition of the rule; `everyone` takes it out. */
  readonly when?: string | undefined;
  /** `25%`, `20% to 45%`, `1% from 2026-12-01T09:00, 100% from 2026-12-08T09:00`, or `none` to take the share out. */
  readonly share?: string | undefined;
  /** A value, or the name of a variant, as a text. */
  readonly give?: string | undefined;
  /** `2 classic, 1 deck`. */
  readonly split?: string | undefined;
  /** The attribute by which the rule draws; `default` goes by that of the file. */
  readonly by?: string | undefined;
  /** Another name for the rule; environments that adjust it follow. */
  readonly called?: string | undefined;
  /** A remark on the rule; an empty one takes it out. */
  readonly remark?: string | undefined;
  readonly otherwise?: string | undefined;
  readonly safe?: string | undefined;
  /** A condition that must hold for everything else; `everyone` takes it out. */
  readonly provided?: string | undefined;
  readonly about?: string | undefined;
  readonly owner?: string | undefined;
  /** `passing` or `lasting`. */
  readonly lifespan?: string | undefined;
  /** `2027-03-31`. */
  readonly reviewBy?: string | undefined;
  /** The rule's new place, from 1. */
  readonly place?: number | undefined;
  /** A new rule of this name, with what else is given, at `place` or at the end. */
  readonly newRule?: string | undefined;
  /** Takes the rule out. */
  readonly remove?: boolean | undefined;
}

/** The file of a flag with something of it set. */
export function setFlag(request: SetRequest, loaded: Loaded): FileChange {
  const flag = flagCalled(request.flag, loaded);
  for (const name of [request.environment, request.like]) if (name !== undefined) mustBeEnvironment(name, loaded);
  const edits = new Setter(flag, request).edits();
  if (edits.length === 0) {
    throw new ToolError(
      "There is nothing to set.",
      "say --share, --give, --split, --when, --otherwise, --safe, --place, --new-rule, --remove, --like or another option of iudex set",
    );
  }
  const { file } = flag.place;
  return { file, text: editText(file, loaded.content.files.get(file)!.text, edits) };
}

class Setter {
  readonly #flag: FlagDefinition;
  readonly #request: SetRequest;
  /** What the environment says, once what is copied to it has been. */
  readonly #settings: FlagEnvironmentSource | undefined;

  constructor(flag: FlagDefinition, request: SetRequest) {
    const { environment, like } = request;
    this.#flag = flag;
    this.#request = request;
    this.#settings = settingsIn(flag, like ?? environment);
  }

  edits(): Edit[] {
    const { safe, otherwise, like } = this.#request;
    return [
      ...(like === undefined ? [] : this.#copy(like)),
      ...(safe === undefined ? [] : this.#safe(safe)),
      ...(otherwise === undefined ? [] : this.#otherwise(otherwise)),
      ...this.#provided(),
      ...this.#particulars(),
      ...this.#ruleEdits(),
    ];
  }

  #path(...steps: (string | number)[]): Path {
    const { environment } = this.#request;
    const own = at(this.#flag.place, ...(environment === undefined ? [] : ["environments", environment]));
    return [...own.path, ...steps];
  }

  #copy(like: string): Edit[] {
    const { environment, flag } = this.#request;
    if (environment === undefined || environment === like) {
      throw new ToolError("--like copies one environment's settings to another.", "say to which with --env");
    }
    const settings = settingsIn(this.#flag, like);
    if (settings) return [{ edit: "set", path: this.#path(), value: settings, order: flagOrder }];
    if (settingsIn(this.#flag, environment)) return [{ edit: "remove", path: this.#path() }];
    throw new ToolError(
      `Neither ${like} nor ${environment} has settings of its own for ${flag}; they are alike already.`,
    );
  }

  #safe(text: string): Edit[] {
    if (this.#request.environment !== undefined) {
      throw new ToolError("The safe value is the same in every environment.", "leave --env out, or set --otherwise");
    }
    return [{ edit: "set", path: this.#path("safe"), value: givenValue(text, this.#flag), order: flagOrder }];
  }

  #provided(): Edit[] {
    const { provided, environment } = this.#request;
    if (provided === undefined) return [];
    const standing = environment === undefined ? this.#flag.source.provided : this.#settings?.provided;
    const path = this.#path("provided");
    if (provided !== "everyone") return [{ edit: "set", path, value: provided, order: this.#order }];
    return standing === undefined ? [] : [{ edit: "remove", path }];
  }

  /** What is said of the flag itself, in every environment. */
  #particulars(): Edit[] {
    const { about, owner, lifespan, reviewBy, environment } = this.#request;
    const given = Object.entries({ about, owner, lifespan, "review-by": reviewBy }).filter(
      ([, value]) => value !== undefined,
    );
    if (given.length > 0 && environment !== undefined) {
      throw new ToolError(`“${given[0]![0]}” is the same in every environment.`, "leave --env out");
    }
    return given.map(([key, value]) => ({ edit: "set", path: this.#path(key), value, order: flagOrder }));
  }

  get #order(): readonly string[] {
    return this.#request.environment === undefined ? flagOrder : settingsOrder;
  }

  #otherwise(text: string): Edit[] {
    return [{ edit: "set", path: this.#path("otherwise"), value: givenValue(text, this.#flag), order: this.#order }];
  }

  /** An environment without rules of its own adjusts those of the flag, so that later changes of theirs still arrive. */
  get #adjusts(): boolean {
    return this.#request.environment !== undefined && this.#settings?.rules === undefined;
  }

  #ruleEdits(): Edit[] {
    const { share, give, split, when, place, rule, newRule, remove, by, called, remark } = this.#request;
    if (newRule !== undefined) return this.#adjusts ? this.#refuseAdjust("a new rule") : this.#add(newRule);
    if ([share, give, split, when, place, remove, by, called, remark].every((part) => part === undefined)) {
      if (rule === undefined) return [];
      throw new ToolError(
        `What is to be set of the rule “${rule}”?`,
        "say --share, --give, --split, --when, --place or --remove",
      );
    }
    const rules = this.#rules();
    const index = indexOfRule(rules, this.#flag.name, rule, share);
    if (this.#adjusts) return this.#adjust(rules[index]!, rules, index);
    if (remove) return [{ edit: "remove", path: this.#path("rules", index) }];
    return [...this.#inRule(rules[index]!, index), ...(place === undefined ? [] : this.#move(rules, index, place))];
  }

  #refuseAdjust(what: string): never {
    throw new ToolError(
      `An environment adjusts the shares, values and splits of the flag's rules; ${what} is for every environment.`,
      "leave --env out, or write rules of its own into the environment",
    );
  }

  #rules(): readonly RuleSource[] {
    const rules =
      (this.#adjusts || this.#request.environment === undefined ? this.#flag.source : this.#settings)?.rules ?? [];
    if (rules.length > 0) return rules;
    throw new ToolError(`${this.#flag.name} has no rules here.`, "set --otherwise, or add a rule with --new-rule");
  }

  #adjust(rule: RuleSource, rules: readonly RuleSource[], index: number): Edit[] {
    const { when, place, remove, by, called, remark } = this.#request;
    if (when !== undefined) this.#refuseAdjust("a condition");
    if (place !== undefined) this.#refuseAdjust("the order of rules");
    if (remove) this.#refuseAdjust("taking a rule out");
    if (by !== undefined) this.#refuseAdjust("the attribute by which a rule draws");
    if (called !== undefined || remark !== undefined) this.#refuseAdjust("what a rule is called and said of it");
    const name = rule.name ?? nameFor(rules, index);
    if (rules.filter((each) => each.name === name).length > 1) {
      throw new ToolError(
        `${ruleCalledIn(rules, index)} has no name of its own, by which an environment could adjust it.`,
        "give the rule a name of its own first",
      );
    }
    const now = this.#settings?.adjust?.[name];
    const standing = flagIn(this.#flag, this.#request.environment).rules[index]?.source ?? rule;
    const value = { ...now, ...this.#adjusted(standing) };
    if (this.#request.give !== undefined) delete (value as { split?: unknown }).split;
    if (this.#request.split !== undefined) delete (value as { give?: unknown }).give;
    const adjusted: Edit = { edit: "set", path: this.#path("adjust", name), value, order: [] };
    return rule.name === undefined ? [this.#named(name, index), adjusted] : [adjusted];
  }

  /** An environment adjusts a rule by its name, so that one without gets one first. */
  #named(name: string, index: number): Edit {
    return { edit: "set", path: [...at(this.#flag.place, "rules", index).path, "name"], value: name, order: ruleOrder };
  }

  #adjusted(rule: RuleSource): object {
    const { share, give, split } = this.#request;
    if (share === "none" && rule.share === undefined) throw new ToolError("This rule has no share here.");
    return {
      ...(share === undefined ? {} : { share: shareValue(share) }),
      ...(give === undefined ? {} : { give: givenValue(give, this.#flag) }),
      ...(split === undefined ? {} : { split: splitTexts(split, this.#flag) }),
    };
  }

  #inRule(rule: RuleSource, index: number): Edit[] {
    const { share, give, split, when, by, remark } = this.#request;
    const path = (key: string): Path => this.#path("rules", index, key);
    const set = (key: string, value: unknown): Edit => ({ edit: "set", path: path(key), value, order: ruleOrder });
    const drop = (key: string): Edit => ({ edit: "remove", path: path(key) });
    const edits: Edit[] = [];
    if (when === "everyone") edits.push(...(rule.when === undefined ? [] : [drop("when")]));
    else if (when !== undefined) edits.push(set("when", when));
    if (share === "none") {
      if (rule.share === undefined) throw new ToolError(`${ruleCalledIn(this.#rules(), index)} has no share.`);
      edits.push(drop("share"));
    } else if (share !== undefined) edits.push(...this.#share(share, rule, path("share")));
    if (give !== undefined)
      edits.push(set("give", givenValue(give, this.#flag)), ...(rule.split ? [drop("split")] : []));
    if (split !== undefined)
      edits.push(set("split", splitTexts(split, this.#flag)), ...(rule.give === undefined ? [] : [drop("give")]));
    if (by === "default") edits.push(...(rule.by === undefined ? [] : [drop("by")]));
    else if (by !== undefined) edits.push(set("by", by));
    if (remark === "") edits.push(...(rule.note === undefined ? [] : [drop("note")]));
    else if (remark !== undefined) edits.push(set("note", remark));
    return [...edits, ...this.#called(index, rule)];
  }

  /** Environments that adjust a rule by its name follow it to another one. */
  #called(index: number, { name }: RuleSource): Edit[] {
    const { called, environment } = this.#request;
    if (called === undefined || called === name) return [];
    const rules = this.#rules();
    if (rules.some((each) => each.name === called)) {
      throw new ToolError(`Another rule is called “${called}” already.`, "choose another name");
    }
    const isOwn = rules.filter((each) => each.name === name).length === 1;
    const adjusting = Object.entries(this.#flag.source.environments ?? {}).filter(
      ([, { adjust }]) => name !== undefined && adjust && Object.hasOwn(adjust, name),
    );
    const follow = environment === undefined && isOwn ? adjusting : [];
    return [
      { edit: "set", path: this.#path("rules", index, "name"), value: called, order: ruleOrder },
      ...follow.map(
        ([where]): Edit => ({
          edit: "rename",
          path: at(this.#flag.place, "environments", where, "adjust", name!).path,
          to: called,
        }),
      ),
    ];
  }

  /** A share that goes on rising keeps the zone in which its times are written. */
  #share(text: string, rule: RuleSource, path: Path): Edit[] {
    const value = shareValue(text);
    const goesOn = typeof value === "object" && typeof rule.share === "object";
    if (goesOn) return difference([...path, "rising"], rule.share.rising, value.rising);
    return [{ edit: "set", path, value, order: ruleOrder }];
  }

  #add(name: string): Edit[] {
    const { when, share, give, split, place, remove } = this.#request;
    if (remove) throw new ToolError("A rule is either new or taken out.", "leave --remove or --new-rule out");
    if ((give === undefined) === (split === undefined)) {
      throw new ToolError("A new rule gives one thing.", "say what with --give, or how it divides with --split");
    }
    const rules = (this.#request.environment === undefined ? this.#flag.source : this.#settings)?.rules;
    const taken = rules?.findIndex((each) => each.name === name) ?? -1;
    if (taken >= 0)
      throw new ToolError(
        `Rule ${taken + 1} is called “${name}” already.`,
        "choose another name, or set that rule with --rule",
      );
    const rule = {
      name,
      ...(when === undefined || when === "everyone" ? {} : { when }),
      ...(share === undefined || share === "none" ? {} : { share: shareValue(share) }),
      ...(give === undefined ? {} : { give: givenValue(give, this.#flag) }),
      ...(split === undefined ? {} : { split: splitTexts(split, this.#flag) }),
    };
    if (!rules || rules.length === 0)
      return [{ edit: "set", path: this.#path("rules"), value: [rule], order: this.#order, lines: true }];
    const index = place === undefined ? rules.length : checkedPlace(place, rules.length + 1);
    return [{ edit: "insert", path: this.#path("rules"), at: index, values: [rule] }];
  }

  #move(rules: readonly RuleSource[], from: number, place: number): Edit[] {
    const to = checkedPlace(place, rules.length);
    return from === to ? [] : [{ edit: "move", path: this.#path("rules"), from, to }];
  }
}

/** A name that no other rule has. */
function nameFor(rules: readonly RuleSource[], index: number): string {
  const name = `rule ${index + 1}`;
  return rules.some((each) => each.name === name) ? `${name} of ${rules.length}` : name;
}

/** A place from 1, as an index. */
function checkedPlace(place: number, count: number): number {
  if (Number.isInteger(place) && place >= 1 && place <= count) return place - 1;
  throw new ToolError(`There is no place ${place} among ${count} rules.`, `write 1 to ${count}`);
}
