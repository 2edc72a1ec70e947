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
import { formOf, Particulars, particularsOf } from "../../parts/form-field.tsx";

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
            label={formOf("flag", "otherwise").says}
          />
        </ChangeForm>
      )}
    </Opening>
  );
}

/** What is said of a flag itself. */
export function ChangeParticulars({ flag }: { readonly flag: FlagDefinition }) {
  const { safe, provided = "" } = flag.source;
  const said = particularsIn(flag);
  return (
    <Opening label="Change what is said of it">
      {(close) => (
        <ChangeForm
          change={(form) => {
            const texts = Object.keys(said).map((field) => [field, textIn(form, field)]);
            const written = {
              ...Object.fromEntries(texts),
              safe: textIn(form, "safe"),
              provided: textIn(form, "provided") ?? (provided === "" ? undefined : "everyone"),
            };
            const changed = given(written, { ...said, safe: giveWords(safe), provided });
            return Object.keys(changed).length === 0 ? [] : [{ change: "flag", flag: flag.name, ...changed }];
          }}
          done={close}
        >
          <Particulars change="flag" said={said} />
          <ValueField flag={flag} name="safe" value={giveWords(safe)} label={formOf("flag", "safe").says} />
          <ConditionField name="provided" value={provided} label={formOf("flag", "provided").says} />
        </ChangeForm>
      )}
    </Opening>
  );
}

/** What a flag says of itself, by the fields of a change: a file writes `review-by` what a change calls `reviewBy`. */
function particularsIn({ source }: FlagDefinition): Record<string, string> {
  const keyOf = (field: string) => field.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);
  const written = source as Readonly<Record<string, unknown>>;
  return Object.fromEntries(particularsOf("flag").map((field) => [field, String(written[keyOf(field)] ?? "")]));
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
  const parts = partsOf(flag.name, asked, set);
  const [part] = parts;
  // Nothing is promised that is not known.
  if (parts.some(({ open }) => open === "value")) return null;
  return (
    <p>
      <button type="button" class="quiet" onClick={add}>
        This must stay true: {part?.value ?? ""} for this person
      </button>
      <FaultWords fault={fault} />
    </p>
  );
}
