import { useState } from "preact/hooks";
import { type FlagDefinition, flagIn } from "../../../model/index.ts";
import { instantOf } from "../../asking/clock.ts";
import { question } from "../../asking/question-now.ts";
import { partsOf } from "../../definitions/answers.ts";
import { addChange, type NotTaken } from "../../definitions/draft.ts";
import { setFor } from "../../definitions/versions.ts";
import { ChangeForm, given, Opening, textIn } from "../../parts/change-form.tsx";
import { ConditionField } from "../../parts/condition-field.tsx";
import { FaultWords } from "../../parts/fault-words.tsx";
import { giveWords, ValueField, WhereField } from "../../parts/fields.tsx";

/** What everybody else gets, in every environment or in one. */
export function ChangeOtherwise({
  flag,
  environment,
}: {
  readonly flag: FlagDefinition;
  readonly environment: string | undefined;
}) {
  const hasOwn = environment !== undefined && flag.source.environments?.[environment]?.otherwise !== undefined;
  const [where, setWhere] = useState(hasOwn ? environment : "");
  const { otherwise } = flagIn(flag, where === "" ? undefined : where);
  return (
    <Opening label="Change" long="Change what everybody else gets">
      {(close) => (
        <ChangeForm
          change={(form) => {
            const value = textIn(form, "otherwise");
            if (value === undefined || value === giveWords(otherwise)) return [];
            return [
              { change: "flag", flag: flag.name, otherwise: value, ...(where === "" ? {} : { environment: where }) },
            ];
          }}
          done={close}
        >
          <WhereField where={where} set={setWhere} />
          <ValueField
            key={where}
            flag={flag}
            name="otherwise"
            value={giveWords(otherwise)}
            label="Everybody else gets"
          />
        </ChangeForm>
      )}
    </Opening>
  );
}

/** What is said of a flag itself. */
export function ChangeParticulars({ flag }: { readonly flag: FlagDefinition }) {
  const { about = "", owner = "", lifespan = "", "review-by": reviewBy = "", safe, provided = "" } = flag.source;
  return (
    <Opening label="Change what is said of it">
      {(close) => (
        <ChangeForm
          change={(form) => {
            const written = {
              about: textIn(form, "about"),
              owner: textIn(form, "owner"),
              lifespan: textIn(form, "lifespan"),
              reviewBy: textIn(form, "reviewBy"),
              safe: textIn(form, "safe"),
              provided: textIn(form, "provided") ?? (provided === "" ? undefined : "everyone"),
            };
            const before: Readonly<Record<string, string>> = {
              about,
              owner,
              lifespan,
              reviewBy,
              safe: giveWords(safe),
              provided,
            };
            const changed = given(written, before);
            return Object.keys(changed).length === 0 ? [] : [{ change: "flag", flag: flag.name, ...changed }];
          }}
          done={close}
        >
          <label>
            What it is for <input type="text" name="about" defaultValue={about} autocomplete="off" />
          </label>
          <label>
            Owner <input type="text" name="owner" defaultValue={owner} autocomplete="off" />
          </label>
          <label>
            Lifespan{" "}
            <select name="lifespan">
              {["", "passing", "lasting"].map((each) => (
                <option key={each} value={each} selected={each === lifespan}>
                  {each === "" ? "not said" : each}
                </option>
              ))}
            </select>
          </label>
          <label>
            Review by <input type="date" name="reviewBy" defaultValue={reviewBy} />
          </label>
          <ValueField flag={flag} name="safe" value={giveWords(safe)} label="Safe value" />
          <ConditionField name="provided" value={provided} label="Only where (nothing: everywhere)" />
        </ChangeForm>
      )}
    </Opening>
  );
}

/** “This must stay true”: an example from the person in question. */
export function AddExample({ flag }: { readonly flag: FlagDefinition }) {
  const [fault, setFault] = useState<NotTaken>(undefined);
  const { asked } = question.value;
  const set = setFor(asked);
  const { whom } = asked;
  if (whom.kind !== "person" || !set) return null;
  const add = async () => {
    const at = instantOf(asked);
    const environment = asked.environment ?? [...set.definitions!.environments.keys()].at(-1);
    const verdict = set.flagSet(environment).verdict(flag.name, whom.context, { at })!;
    const gives = flag.variants ? (verdict.variant ?? "") : giveWords(verdict.value);
    const instant = `${new Date(at).toISOString().slice(0, 16)}Z`;
    setFault(
      await addChange({
        change: "example",
        flag: flag.name,
        as: whom.context,
        at: instant,
        gives,
        ...(environment === undefined ? {} : { environment }),
      }),
    );
  };
  const [part] = partsOf(flag.name, asked, set);
  return (
    <p>
      <button type="button" class="quiet" onClick={add}>
        This must stay true: {part?.value ?? ""} for this person
      </button>
      <FaultWords fault={fault} />
    </p>
  );
}
