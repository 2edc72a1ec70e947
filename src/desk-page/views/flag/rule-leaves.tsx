import type { FlagDefinition } from "../../../model/index.ts";
import { question } from "../../asking/question-now.ts";
import { textIn, textsIn } from "../../parts/change-form.tsx";
import { ConditionField } from "../../parts/condition-field.tsx";
import { ValueField } from "../../parts/fields.tsx";
import { FormField, formOf } from "../../parts/form-field.tsx";
import { Leaf } from "../../words/leaf.tsx";
import { placed, type RulesPlace, Where } from "../../words/places.tsx";

/** A rule that is not there yet. */
export function NewRuleLeaf({ place, count }: { readonly place: RulesPlace; readonly count: number }) {
  const { flag } = place;
  return (
    <Leaf
      place={place.at}
      title="A new rule"
      keep="Add it"
      change={(form) => {
        const newRule = textIn(form, "newRule");
        const given = textsIn(form, ["when", "share", "give", "split"]);
        if (newRule === undefined && Object.keys(given).length <= 1) return [];
        if (newRule === undefined) return { message: "The rule has no name yet.", help: "write what people call it" };
        const { give, ...rest } = given;
        const at = Number(textIn(form, "place") ?? "") || undefined;
        const gets = given["split"] !== undefined || give === undefined ? {} : { give };
        const common = { change: "flag", flag: flag.name, newRule, ...rest, ...gets } as const;
        return placed(form, place, at === undefined ? common : { ...common, place: at }, false);
      }}
    >
      <FormField change="flag" field="newRule" />
      <ConditionField name="when" value="" label={formOf("flag", "when").says} />
      <FormField change="flag" field="share" />
      <ValueField flag={flag} name="give" value="" label={formOf("flag", "give").says} />
      {flag.variants && <FormField change="flag" field="split" />}
      <label>
        At place <input type="number" name="place" min={1} max={count + 1} placeholder="at the end" />
      </label>
      <Where place={place} isAdjusted={false} />
    </Leaf>
  );
}

interface CopySettingsLeafProps {
  readonly at: string;
  readonly flag: FlagDefinition;
  readonly environments: readonly string[];
}

/** Settings of one environment taken over by another. */
export function CopySettingsLeaf({ at, flag, environments }: CopySettingsLeafProps) {
  const here = question.value.asked.environment;
  return (
    <Leaf
      place={at}
      title="Settings of one environment for another"
      keep="Copy them"
      change={(form) => {
        const [like, environment] = [textIn(form, "like"), textIn(form, "to")];
        return like && environment ? [{ change: "flag", flag: flag.name, like, environment }] : [];
      }}
    >
      {["like", "to"].map((name, i) => (
        <label key={name}>
          {name === "like" ? "From" : "to"}{" "}
          <select name={name}>
            <option value="">– choose –</option>
            {environments.map((each) => (
              <option key={each} value={each} selected={i === 1 && each === here}>
                {each}
              </option>
            ))}
          </select>
        </label>
      ))}
    </Leaf>
  );
}
