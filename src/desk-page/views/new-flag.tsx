import { useState } from "preact/hooks";
import type { ReadSet } from "../definitions/read-set.ts";
import { ChangeForm, Opening, textIn, textsIn } from "../parts/change-form.tsx";
import { FileField } from "../parts/fields.tsx";
import { FormField, formOf, Particulars, particularsOf } from "../parts/form-field.tsx";

/** A flag that is not there yet; it gives its safe value to everybody until it has rules. */
export function NewFlag({ set }: { readonly set: ReadSet }) {
  const [hasVariants, setVariants] = useState(false);
  const files = [...set.definitions!.flags.values()].map(({ file }) => file);
  return (
    <Opening label="Make a new flag">
      {(close) => (
        <ChangeForm
          change={(form) => {
            const texts = textsIn(form, ["file", "variants", ...particularsOf("new-flag")]);
            return [
              { change: "new-flag", flag: textIn(form, "flag") ?? "", safe: textIn(form, "safe") ?? "false", ...texts },
            ];
          }}
          done={close}
        >
          <FormField change="new-flag" field="flag" required />
          <Particulars change="new-flag" />
          <label>
            <input
              type="checkbox"
              checked={hasVariants}
              onChange={(event) => setVariants(event.currentTarget.checked)}
            />{" "}
            it has variants
          </label>
          {hasVariants && <FormField change="new-flag" field="variants" required />}
          <label>
            {hasVariants ? "The safe variant" : formOf("new-flag", "safe").says}{" "}
            <input type="text" name="safe" required defaultValue={hasVariants ? "" : "false"} autocomplete="off" />
          </label>
          <FileField files={files} />
        </ChangeForm>
      )}
    </Opening>
  );
}
