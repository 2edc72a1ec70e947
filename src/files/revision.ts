import { createHash } from "node:crypto";
import { DefinitionSet } from "../core/definition/definition-set.ts";
import { canonicalPieces } from "../core/definition/revision.ts";
import type { Definitions } from "../core/index.ts";
import { inSlices } from "./slices.ts";

/** Works the revision of a set out beforehand, with the platform's hash and without keeping the event loop waiting. */
export async function settleRevision(definitions: Definitions): Promise<void> {
  if (!(definitions instanceof DefinitionSet)) return;
  definitions.settleRevision(await inSlices(hashed(definitions)));
}

/** Handing every small piece over on its own would take longer than hashing it. In UTF-16 units. */
const piecesAtOnce = 65_536;

function* hashed(definitions: Definitions): Generator<undefined, string, undefined> {
  const hash = createHash("sha256");
  let text = "";
  for (const piece of canonicalPieces(definitions)) {
    text += piece;
    if (text.length > piecesAtOnce) {
      hash.update(text);
      text = "";
    }
    yield;
  }
  hash.update(text);
  return hash.digest("hex").slice(0, 12);
}
