// In which order people write the keys of a flag, a rule, an environment's settings, a cohort.
export const flagOrder =
  "about owner lifespan review-by links safe variants schema by salt provided rules otherwise environments for-instance".split(
    " ",
  );
export const ruleOrder = ["name", "note", "when", "by", "salt", "share", "give", "split"];
export const settingsOrder = ["provided", "rules", "adjust", "otherwise"];
export const cohortOrder = ["about", "when", "of", "ids", "file", "column", "share", "by", "salt"];

/** An object with its keys in that order, without those that hold nothing. */
export function ordered(value: Readonly<Record<string, unknown>>, order: readonly string[]): Record<string, unknown> {
  const keys = [...order.filter((key) => key in value), ...Object.keys(value).filter((key) => !order.includes(key))];
  return Object.fromEntries(keys.flatMap((key) => (value[key] === undefined ? [] : [[key, value[key]]])));
}
