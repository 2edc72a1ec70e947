import { type FlagDefinition, flagIn, settingsIn } from "../../../model/index.ts";
import { question } from "../../asking/question-now.ts";
import { currentSet } from "../../definitions/versions.ts";
import { CopySettingsLeaf, NewRuleLeaf } from "../../words/late-leaves.ts";
import type { RulesPlace } from "../../words/places.tsx";
import { Word } from "../../words/word.tsx";

/** A rule that is not there yet. */
export function NewRule({ flag }: { readonly flag: FlagDefinition }) {
  const here = question.value.asked.environment;
  const own = here !== undefined && settingsIn(flag, here)?.rules ? here : undefined;
  const place: RulesPlace = { flag, environment: here, own, at: `${flag.name}/new-rule` };
  const count = flagIn(flag, here).rules.length;
  return (
    <Word place={place.at} about={`to ${flag.name}`} leaf={() => <NewRuleLeaf place={place} count={count} />}>
      Add a rule
    </Word>
  );
}

/** Settings of one environment taken over by another. */
export function CopySettings({ flag }: { readonly flag: FlagDefinition }) {
  const environments = [...(currentSet()?.definitions?.environments.keys() ?? [])];
  if (environments.length < 2) return null;
  const at = `${flag.name}/copy-settings`;
  return (
    <Word
      place={at}
      about={`of ${flag.name}`}
      leaf={() => <CopySettingsLeaf at={at} flag={flag} environments={environments} />}
    >
      Copy the settings of an environment
    </Word>
  );
}
