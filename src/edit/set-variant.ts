import { type Loaded, ToolError } from "../files/index.ts";
import { at } from "../problems/index.ts";
import { isName, show } from "../values/index.ts";
import type { FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { flagCalled } from "./find-flag.ts";
import { flagOrder } from "./flag-keys.ts";
import { freeValue } from "./read-values.ts";

/** A variant of a flag with another value, a new one, or one that goes. */
export interface VariantRequest {
  readonly flag: string;
  readonly variant: string;
  /** Its value, as a text: JSON where it is some. */
  readonly value?: string | undefined;
  readonly remove?: boolean | undefined;
}

/** The file of a flag with a variant set or taken out. */
export function setVariant({ flag: name, variant, value, remove }: VariantRequest, loaded: Loaded): FileChange {
  const flag = flagCalled(name, loaded);
  const { file, path } = at(flag.place, "variants", variant);
  const text = loaded.content.files.get(file)!.text;
  if (!flag.variants)
    throw new ToolError(`${name} has no variants.`, "a flag has them from its beginning: make another flag with them");
  if (remove) {
    if (!flag.variants.has(variant)) throw new ToolError(`${name} has no variant “${variant}”.`, "it is gone already");
    return { file, text: editText(file, text, [{ edit: "remove", path }]) };
  }
  if (!isName(variant))
    throw new ToolError(`A variant cannot be called ${show(variant)}.`, "write letters, digits, . _ -");
  if (value === undefined) throw new ToolError("What is the value of the variant?", "write a value");
  const isText = flag.type === "text";
  return {
    file,
    text: editText(file, text, [{ edit: "set", path, value: isText ? value : freeValue(value), order: flagOrder }]),
  };
}
