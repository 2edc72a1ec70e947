import type { ComponentChildren } from "preact";
import type { Change } from "../../desk/index.ts";
import { printPath } from "../../language/index.ts";
import { type FlagDefinition, type Rule, settingsIn } from "../../model/index.ts";
import { question } from "../asking/question-now.ts";
import { currentSet } from "../definitions/versions.ts";
import type { Written } from "./leaf.tsx";

export type FlagChange = Extract<Change, { change: "flag" }>;

/** Where words of rules stand. */
export interface RulesPlace {
  readonly flag: FlagDefinition;
  /** In which the rules are shown. */
  readonly environment: string | undefined;
  /** The environment to which they belong, where it has rules of its own. */
  readonly own: string | undefined;
  /** The environment that adjusts the rule as it is shown. */
  readonly adjusted?: string | undefined;
  /** Begins the places of its words. */
  readonly at: string;
}

/** A rule as it stands in an environment. */
export interface RulePlace extends RulesPlace {
  readonly rule: Rule;
}

/** How a rule is meant in a change: by its name where that is its own, else by its number. */
export function ruleKey({ name, number }: Rule): string {
  return name ?? String(number);
}

/** The attribute by which a rule draws, in words; nothing where it does not. */
export function byWords({ rule: { division } }: RulePlace): string {
  return division ? printPath(division.by) : "";
}

/** A change of a rule, in no environment yet. */
export function changeOf({ flag, rule }: RulePlace, fields: Partial<FlagChange>): FlagChange {
  return { change: "flag", flag: flag.name, rule: ruleKey(rule), ...fields };
}

function environmentsNow(): readonly string[] {
  return [...(currentSet()?.definitions?.environments.keys() ?? [])];
}

interface InOneProps {
  /** What is chosen at first. */
  readonly here: string | undefined;
  /** Where what is common does not arrive. */
  readonly but?: string | undefined;
  readonly children?: ComponentChildren;
}

/** Everywhere, or in one environment only. */
export function InOne({ here, but, children }: InOneProps) {
  const environments = environmentsNow();
  if (environments.length < 2) return null;
  return (
    <label class="where-it-holds">
      It holds{" "}
      <select name="where">
        <option value="">everywhere{but === undefined ? "" : ` but in ${but}`}</option>
        {environments.map((name) => (
          <option key={name} value={name} selected={name === here}>
            in {name} only
          </option>
        ))}
      </select>{" "}
      {children}
    </label>
  );
}

interface WhereProps {
  readonly place: RulesPlace;
  /** Whether it is about a share that rises. */
  readonly rises?: boolean;
  /** What an environment sets for itself: shares and values. All else of a rule is common, unless it gets rules of its own. */
  readonly isAdjusted: boolean;
}

/** Where what is written is to hold: asked, not assumed. */
export function Where({ place: { flag, environment, own, adjusted }, isAdjusted, rises = false }: WhereProps) {
  if (environmentsNow().length < 2) return null;
  if (own !== undefined) return <p>It holds in {own} only, which has rules of its own.</p>;
  const here = question.value.asked.environment;
  if (isAdjusted) {
    return (
      <InOne here={here ?? adjusted} but={adjusted}>
        {rises && <i>In one place only, later changes of the common share no longer reach it.</i>}
      </InOne>
    );
  }
  // Asked in every environment, what is common is changed for them all.
  if (here === undefined || settingsIn(flag, environment ?? here)?.rules !== undefined) return null;
  return (
    <label class="where-it-holds">
      It holds{" "}
      <select name="where">
        <option value="?">– say where –</option>
        <option value="">everywhere</option>
        <option value={here}>in {here} only, as rules of its own</option>
      </select>{" "}
      <i>Rules of its own are a copy: later changes of the common ones do not reach it.</i>
    </label>
  );
}

/** What a leaf writes, at the place that was said. */
export function placed(
  form: FormData,
  place: RulesPlace,
  change: FlagChange | undefined,
  isAdjusted: boolean,
): Written {
  if (!change) return [];
  const where = form.get("where");
  if (place.own !== undefined) return [{ ...change, environment: place.own }];
  if (where === "?") return { message: "Where is it to hold?", help: "choose everywhere, or rules of its own" };
  if (typeof where !== "string" || where === "") return [change];
  const there = { ...change, environment: where };
  return isAdjusted ? [there] : [{ change: "own-rules", flag: place.flag.name, environment: where }, there];
}
