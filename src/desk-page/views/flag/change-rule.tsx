import { useState } from "preact/hooks";
import type { Change } from "../../../desk/index.ts";
import { type FlagDefinition, type Rule, settingsIn } from "../../../model/index.ts";
import { question } from "../../asking/question-now.ts";
import { addChange, type NotTaken } from "../../definitions/draft.ts";
import { currentSet } from "../../definitions/versions.ts";
import { ChangeForm, Opening, textIn, textsIn } from "../../parts/change-form.tsx";
import { ConditionField } from "../../parts/condition-field.tsx";
import { FaultWords } from "../../parts/fault-words.tsx";
import { giveWords, ValueField, WhereField } from "../../parts/fields.tsx";
import { FormField, formOf } from "../../parts/form-field.tsx";
import { ShareSlider } from "../../parts/share-slider.tsx";

interface ChangeRuleProps {
  readonly flag: FlagDefinition;
  readonly rule: Rule;
  readonly count: number;
  readonly environment: string | undefined;
}

type FlagChange = Extract<Change, { change: "flag" }>;

/** How a rule is meant in a change: by its name where that is its own, else by its number. */
export function ruleKey({ name, number }: Rule): string {
  return name ?? String(number);
}

/** What can be done with a rule: change it, move it, take it out. */
export function ChangeRule({ flag, rule, count, environment }: ChangeRuleProps) {
  const [fault, setFault] = useState<NotTaken>(undefined);
  const common = { change: "flag", flag: flag.name, rule: ruleKey(rule), environment: rule.environment } as const;
  const move = async (place: number) => setFault(await addChange({ ...common, place }));
  const called = rule.name ? `“${rule.name}”` : `${rule.number}`;
  return (
    <div class="doings">
      <Opening label="Change" long={`Change rule ${called}`}>
        {(close) => <RuleForm flag={flag} rule={rule} environment={environment} close={close} />}
      </Opening>
      {rule.number > 1 && (
        <button type="button" class="quiet" aria-label={`Move rule ${called} up`} onClick={() => move(rule.number - 1)}>
          Up
        </button>
      )}
      {rule.number < count && (
        <button
          type="button"
          class="quiet"
          aria-label={`Move rule ${called} down`}
          onClick={() => move(rule.number + 1)}
        >
          Down
        </button>
      )}
      <button
        type="button"
        class="quiet"
        aria-label={`Take out rule ${called}`}
        onClick={async () => setFault(await addChange({ ...common, remove: true }))}
      >
        Take out
      </button>
      <FaultWords fault={fault} />
    </div>
  );
}

interface RuleFormProps {
  readonly flag: FlagDefinition;
  readonly rule: Rule;
  readonly environment: string | undefined;
  close(): void;
}

function RuleForm({ flag, rule, environment, close }: RuleFormProps) {
  const { source, when } = rule;
  const [where, setWhere] = useState(rule.environment ?? rule.adjusted?.environment ?? "");
  const share = shareWords(source.share);
  const split = source.split?.join(", ");
  // An environment without rules of its own adjusts shares and values; the condition is the flag's.
  const adjusts = where !== "" && settingsIn(flag, where)?.rules === undefined;
  const change = (form: FormData): readonly Change[] => {
    const written = {
      when: adjusts ? undefined : changed(textIn(form, "when") ?? "everyone", when ?? "everyone"),
      share: changed(textIn(form, "share") ?? "none", share === "" ? "none" : share),
      give: changed(textIn(form, "give"), source.give === undefined ? undefined : giveWords(source.give)),
      split: changed(textIn(form, "split"), split),
    };
    const given = Object.fromEntries(Object.entries(written).filter(([, value]) => value !== undefined));
    if (Object.keys(given).length === 0) return [];
    const place = where === "" ? {} : { environment: where };
    return [{ change: "flag", flag: flag.name, rule: ruleKey(rule), ...place, ...given } as FlagChange];
  };
  const [written, setWritten] = useState<FormData | undefined>(undefined);
  // The share stays as it is, since each place of it is counted.
  written?.set("share", share === "" ? "100%" : share);
  return (
    <ChangeForm change={change} written={setWritten} done={close}>
      <WhereField where={where} set={setWhere} isFixed={rule.environment !== undefined} />
      {!adjusts && <ConditionField name="when" value={when ?? ""} label={formOf("flag", "when").says} />}
      <ShareSlider
        flag={flag.name}
        rule={rule.number}
        environment={where || environment}
        share={share}
        change={written && change(written)[0]}
      />
      {source.split === undefined || source.give !== undefined ? (
        <ValueField flag={flag} name="give" value={giveWords(source.give)} label={formOf("flag", "give").says} />
      ) : (
        <FormField change="flag" field="split" value={split} />
      )}
    </ChangeForm>
  );
}

function shareWords(share: Rule["source"]["share"]): string {
  if (share === undefined) return "";
  return typeof share === "string" ? share : share.rising.join(", ");
}

function changed(now: string | undefined, before: string | undefined): string | undefined {
  return now === before ? undefined : now;
}

/** A rule that is not there yet. */
export function NewRule({ flag }: { readonly flag: FlagDefinition }) {
  const [where, setWhere] = useState("");
  const environment = where === "" ? undefined : where;
  return (
    <Opening label="Add a rule">
      {(close) => (
        <ChangeForm
          change={(form) => {
            const place = Number(textIn(form, "place") ?? "") || undefined;
            return [
              {
                change: "flag",
                flag: flag.name,
                newRule: textIn(form, "newRule") ?? "",
                ...textsIn(form, ["when", "share", "give"]),
                ...(environment ? { environment } : {}),
                ...(place ? { place } : {}),
              },
            ];
          }}
          done={close}
        >
          <FormField change="flag" field="newRule" required />
          <WhereField where={where} set={setWhere} />
          <ConditionField name="when" value="" label={formOf("flag", "when").says} />
          <FormField change="flag" field="share" />
          <ValueField flag={flag} name="give" value="" label={formOf("flag", "give").says} />
          <label>
            At place{" "}
            <input
              type="number"
              name="place"
              min={1}
              max={(flag.source.rules?.length ?? 0) + 1}
              placeholder="at the end"
            />
          </label>
        </ChangeForm>
      )}
    </Opening>
  );
}

/** Settings of one environment taken over by another. */
export function CopySettings({ flag }: { readonly flag: FlagDefinition }) {
  const environments = [...(currentSet()?.definitions?.environments.keys() ?? [])];
  if (environments.length < 2) return null;
  const here = question.value.asked.environment;
  return (
    <Opening label="Copy the settings of an environment">
      {(close) => (
        <ChangeForm
          change={(form) => {
            const [like, environment] = [textIn(form, "like"), textIn(form, "to")];
            if (!like || !environment) return undefined;
            return [{ change: "flag", flag: flag.name, like, environment }];
          }}
          done={close}
        >
          {["like", "to"].map((name, i) => (
            <label key={name}>
              {name === "like" ? "From" : "to"}{" "}
              <select name={name}>
                {environments.map((each) => (
                  <option key={each} value={each} selected={i === 0 ? each !== here : each === here}>
                    {each}
                  </option>
                ))}
              </select>
            </label>
          ))}
        </ChangeForm>
      )}
    </Opening>
  );
}
