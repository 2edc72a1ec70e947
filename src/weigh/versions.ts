import { ToolError } from "../files/index.ts";
import { historyOf, loadSource } from "../study/index.ts";
import type { FlagVersion } from "./experiment.ts";

/** Changes of one flag that are looked back at. */
const maxVersions = 200;

/**
 * The flag as each commit left it that changed it, oldest first; none where the folder is in no repository. What is not
 * committed yet counts as the last commit.
 */
export async function versionsOf(folder: string, flag: string, signal?: AbortSignal): Promise<FlagVersion[]> {
  const versions: FlagVersion[] = [];
  try {
    for await (const { commit, date } of historyOf(folder, { flag, most: maxVersions, signal })) {
      const { loaded } = await loadSource(commit, folder);
      versions.unshift({ from: Date.parse(date), flag: loaded.definitions?.flags.get(flag) });
    }
  } catch (error) {
    if (!(error instanceof ToolError)) throw error;
  }
  return versions;
}
