import { useState } from "preact/hooks";
import type { ReadSet } from "../definitions/read-set.ts";
import { ChangeForm, Opening, textIn, textsIn } from "../parts/change-form.tsx";
import { FileField } from "../parts/fields.tsx";

const fields = ["file", "about", "owner", "lifespan", "reviewBy", "variants"] as const;

/** A flag that is not there yet; it gives its safe value to everybody until it has rules. */
export function NewFlag({ set }: { readonly set: ReadSet }) {
  const [hasVariants, setVariants] = useState(false);
  const files = [...set.definitions!.flags.values()].map(({ file }) => file);
  return (
    <Opening label="Make a new flag">
      {(close) => (
        <ChangeForm
          change={(form) => {
            const [flag, safe] = [textIn(form, "name") ?? "", textIn(form, "safe") ?? "false"];
            return [{ change: "new-flag", flag, safe, ...textsIn(form, fields) }];
          }}
          done={close}
        >
          <label>
            Name <input type="text" name="name" required autocomplete="off" />
          </label>
          <label>
            What it is for <input type="text" name="about" autocomplete="off" />
          </label>
          <label>
            Owner <input type="text" name="owner" autocomplete="off" />
          </label>
          <label>
            Lifespan{" "}
            <select name="lifespan">
              <option value="passing">passing</option>
              <option value="lasting">lasting</option>
            </select>
          </label>
          <label>
            Review by <input type="date" name="reviewBy" />
          </label>
          <label>
            <input
              type="checkbox"
              checked={hasVariants}
              onChange={(event) => setVariants(event.currentTarget.checked)}
            />{" "}
            it has variants
          </label>
          {hasVariants && (
            <label>
              Variants{" "}
              <input
                type="text"
                name="variants"
                required
                placeholder="classic=list, deck=deck-plan"
                autocomplete="off"
              />
            </label>
          )}
          <label>
            {hasVariants ? "The safe variant" : "Safe value"}{" "}
            <input type="text" name="safe" required defaultValue={hasVariants ? "" : "false"} autocomplete="off" />
          </label>
          <FileField files={files} />
        </ChangeForm>
      )}
    </Opening>
  );
}
