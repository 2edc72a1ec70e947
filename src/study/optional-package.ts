import { ToolError } from "../files/index.ts";

/**
 * Loads a package that only one command needs, and that is therefore not installed with Iudex.
 *
 * @param use what it is for, in words: "To write a calendar"
 * @throws {ToolError} that says what to install, where it is not there
 */
export async function optionalPackage<T>(name: string, use: string, load: () => Promise<T>): Promise<T> {
  try {
    return await load();
  } catch (error) {
    const { code } = error as { code?: string };
    if (code !== "ERR_MODULE_NOT_FOUND" && code !== "MODULE_NOT_FOUND") throw error;
    throw new ToolError(
      `${use} the package ${name} is needed, and it is not installed.`,
      `npm install --save-dev ${name}`,
    );
  }
}
