import type { Change } from "../../desk/index.ts";
import { show } from "../../values/index.ts";

/** What a change of a draft is about: the flag or the cohort. */
export function subjectOfChange(change: Change): string {
  return "cohort" in change ? change.cohort : change.flag;
}

/** A change of a draft in a few words, without its subject. */
export function changeWords(change: Change): string {
  switch (change.change) {
    case "new-flag":
      return `a new flag, ${change.safe} for everybody`;
    case "example":
      if (change.dropExample !== undefined) return `example ${change.dropExample} taken out`;
      return `an example: ${show(change.as ?? {}, 80)} gets ${change.gives}`;
    case "ids":
      return [counted(change.add, "added"), counted(change.drop, "taken out")].filter(Boolean).join(", ");
    case "restore":
      return `as it was at ${change.commit.slice(0, 10)}`;
    case "rename":
      return `called ${change.to} from now on`;
    case "copy":
      return `a second flag like it, ${change.to}`;
    case "remove-flag":
      return "removed";
    case "cohort":
      if (change.isNew) return "a new cohort";
      return settings({
        condition: change.when,
        share: change.share,
        "what it is": change.about,
        by: change.by,
        of: change.of,
      });
    case "flag":
      return flagWords(change);
  }
}

function counted(ids: readonly string[] | undefined, done: string): string {
  if (!ids || ids.length === 0) return "";
  return `${ids.length === 1 ? `the id ${ids[0]}` : `${ids.length.toLocaleString("en")} ids`} ${done}`;
}

function flagWords(change: Extract<Change, { change: "flag" }>): string {
  const where = change.environment === undefined ? "" : ` in ${change.environment}`;
  const rule = change.rule === undefined ? "" : ` of rule “${change.rule}”`;
  if (change.like !== undefined) return `settings of ${change.like} copied to ${change.environment}`;
  if (change.newRule !== undefined) return `a new rule, “${change.newRule}”${where}`;
  if (change.remove) return `rule “${change.rule}” taken out${where}`;
  if (change.place !== undefined) return `rule “${change.rule}” moved to place ${change.place}${where}`;
  const inRule = settings({ condition: change.when, share: change.share, value: change.give, split: change.split });
  const ofFlag = settings({
    "value for everybody else": change.otherwise,
    "safe value": change.safe,
    "what must hold": change.provided,
    "what it is for": change.about,
    owner: change.owner,
    lifespan: change.lifespan,
    "review by": change.reviewBy,
  });
  return [inRule && `${inRule}${rule}`, ofFlag].filter(Boolean).join("; ") + where;
}

function settings(given: Readonly<Record<string, string | undefined>>): string {
  return Object.entries(given)
    .flatMap(([name, value]) => (value === undefined ? [] : [`${name}: ${value}`]))
    .join(", ");
}
