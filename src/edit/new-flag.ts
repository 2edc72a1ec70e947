import { type Loaded, ToolError } from "../files/index.ts";
import type { FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { mustBeFree } from "./find-flag.ts";
import { flagOrder, ordered } from "./flag-keys.ts";
import { homeFor } from "./home-file.ts";
import { freeValue, variantValues } from "./read-values.ts";

/** A flag that is not there yet. */
export interface NewFlagRequest {
  readonly flag: string;
  /** The definition file; the only one with flags if left out. It may be new. */
  readonly file?: string | undefined;
  readonly about?: string | undefined;
  readonly owner?: string | undefined;
  readonly lifespan?: string | undefined;
  /** `2027-03-31`. */
  readonly reviewBy?: string | undefined;
  /** A value as JSON, or a text; with variants the name of one. */
  readonly safe: string;
  /** `classic=list, deck=deck-plan`: values as JSON, or texts. */
  readonly variants?: string | undefined;
}

/** The file with a new flag, which gives its safe value to everybody. */
export function newFlag({ ...request }: NewFlagRequest, loaded: Loaded): FileChange {
  const { flag: name } = request;
  mustBeFree(name, loaded);
  const variants = request.variants === undefined ? undefined : variantValues(request.variants);
  const safe = variants ? request.safe : freeValue(request.safe);
  if (variants && !Object.hasOwn(variants, request.safe)) {
    throw new ToolError(`“${request.safe}” is none of the variants.`, "the safe value is the name of a variant");
  }
  const { file, text } = homeFor("flags", request.file, loaded);
  const { about, owner, lifespan, reviewBy } = request;
  const value = ordered({ about, owner, lifespan, "review-by": reviewBy, safe, variants }, flagOrder);
  return { file, text: editText(file, text, [{ edit: "set", path: ["flags", name], value, lines: true }]) };
}
