import { show } from "../values/index.ts";
import type { Change } from "./change.ts";
import { type ChangeField, changeFields } from "./change-fields.ts";

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
      if (change.instead !== undefined)
        return `example ${change.instead}: ${show(change.as ?? {}, 80)} gets ${change.gives}`;
      return `an example: ${show(change.as ?? {}, 80)} gets ${change.gives}`;
    case "ids":
      return [counted(change.add, "added"), counted(change.drop, "taken out")].filter(Boolean).join(", ");
    case "restore":
      return `as it was at ${change.commit.slice(0, 10)}`;
    case "rename":
      return `called ${change.to} from now on`;
    case "own-rules":
      return `rules of its own in ${change.environment}`;
    case "variant":
      if (change.remove) return `variant ${change.variant} taken out`;
      return `variant ${change.variant}: ${change.value}`;
    case "copy":
      return `a second flag like it, ${change.to}`;
    case "remove-flag":
      return "removed";
    case "cohort":
      if (change.isNew) return "a new cohort";
      return settings(change);
    case "flag":
      return flagWords(change);
  }
}

function counted(ids: readonly string[] | undefined, done: string): string {
  if (!ids || ids.length === 0) return "";
  const [named, more] = [ids.slice(0, 3).join(", "), ids.length - 3];
  const words = more > 0 ? `${named} and ${more.toLocaleString("en")} more` : named;
  return `${ids.length === 1 ? `the id ${words}` : `the ids ${words}`} ${done}`;
}

function flagWords(change: Extract<Change, { change: "flag" }>): string {
  const where = change.environment === undefined ? "" : ` in ${change.environment}`;
  const rule = change.rule === undefined ? "" : ` of rule “${change.rule}”`;
  if (change.like !== undefined) return `settings of ${change.like} copied to ${change.environment}`;
  if (change.newRule !== undefined) return `a new rule, “${change.newRule}”${where}`;
  if (change.remove) return `rule “${change.rule}” taken out${where}`;
  if (change.place !== undefined) return `rule “${change.rule}” moved to place ${change.place}${where}`;
  const inRule = settings(change, (field) => ofRules.has(field));
  const ofFlag = settings(change, (field) => !ofRules.has(field));
  return [inRule && `${inRule}${rule}`, ofFlag].filter(Boolean).join("; ") + where;
}

/** Fields that are about one rule. */
const ofRules: ReadonlySet<string> = new Set<keyof typeof changeFields.flag>([
  "when",
  "share",
  "give",
  "split",
  "by",
  "called",
  "remark",
]);

/** What a change sets, by what the table of fields calls it. */
function settings(change: Change, isMeant: (field: string) => boolean = () => true): string {
  const fields: readonly (readonly [string, ChangeField])[] = Object.entries(changeFields[change.change]);
  return fields
    .flatMap(([field, { called }]) => {
      const value = (change as unknown as Readonly<Record<string, unknown>>)[field];
      return called === undefined || value === undefined || !isMeant(field) ? [] : [`${called}: ${value}`];
    })
    .join(", ");
}
