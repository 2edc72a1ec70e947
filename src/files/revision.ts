import { hash } from "node:crypto";
import { DefinitionSet, type Definitions, revisionInSteps } from "../model/index.ts";
import type { ReadingMemory } from "../reading/index.ts";
import { inSlices } from "./slices.ts";

/** Works out the revision of a set before it is needed, with the platform's hash and without keeping the event loop waiting. */
export async function settleRevision(
  definitions: Definitions,
  { canonical }: ReadingMemory,
  signal?: AbortSignal,
): Promise<void> {
  if (!(definitions instanceof DefinitionSet) || definitions.isSettled) return;
  definitions.settleRevision(
    await inSlices(
      revisionInSteps(definitions, canonical, (text) => hash("sha256", text, "hex")),
      signal,
    ),
  );
}
