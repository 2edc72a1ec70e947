import { lazy } from "preact/compat";
import type * as Leaves from "./leaves.ts";

/** Fetched once the page is at rest: a word can be opened while the desk is out of reach. */
export function fetchLeaves(): Promise<typeof Leaves> {
  return import("./leaves.ts");
}

type Name = keyof typeof Leaves;

/** Reading needs no leaf: they are fetched when the first word is opened. */
function late<N extends Name>(name: N) {
  return lazy(async () => ({ default: (await fetchLeaves())[name] })) as unknown as (typeof Leaves)[N];
}

export const ByLeaf = late("ByLeaf");
export const ConditionLeaf = late("ConditionLeaf");
export const CopySettingsLeaf = late("CopySettingsLeaf");
export const ExampleLeaf = late("ExampleLeaf");
export const FlagFieldLeaf = late("FlagFieldLeaf");
export const FlagNameLeaf = late("FlagNameLeaf");
export const GiveLeaf = late("GiveLeaf");
export const JointLeaf = late("JointLeaf");
export const NewExampleLeaf = late("NewExampleLeaf");
export const NewRuleLeaf = late("NewRuleLeaf");
export const OtherwiseLeaf = late("OtherwiseLeaf");
export const PartsLeaf = late("PartsLeaf");
export const RuleTextLeaf = late("RuleTextLeaf");
export const ShareLeaf = late("ShareLeaf");
export const TestLeaf = late("TestLeaf");
export const VariantLeaf = late("VariantLeaf");
