// Every leaf, fetched together when the first word is opened.
export { ExampleLeaf, NewExampleLeaf } from "../views/flag/example-leaves.tsx";
export { CopySettingsLeaf, NewRuleLeaf } from "../views/flag/rule-leaves.tsx";
export { ConditionLeaf, JointLeaf, TestLeaf } from "./condition-leaves.tsx";
export { ShareLeaf } from "./share-leaf.tsx";
export {
  ByLeaf,
  FlagFieldLeaf,
  FlagNameLeaf,
  GiveLeaf,
  OtherwiseLeaf,
  PartsLeaf,
  RuleTextLeaf,
  VariantLeaf,
} from "./small-leaves.tsx";
