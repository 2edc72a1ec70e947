import { basename, dirname, resolve } from "node:path";
import {
  Disk,
  type Entry,
  fileName,
  type LocalOverrides,
  localOverridesFile,
  readLocalOverrides,
} from "../files/index.ts";
import { type Feeding, readOverrideVariable, summariseProblems } from "../flags/index.ts";

/** The override layers of this machine: the variable and the local file, which count where the environment lets them. */
export class LocalLayers {
  readonly #feeding: Feeding;
  /** Whether it was told that the file is left alone. */
  #leftAlone = false;

  constructor(feeding: Feeding) {
    this.#feeding = feeding;
  }

  /** @param text of the variable; the process's own if left out */
  useVariable(text = process.env["IUDEX_OVERRIDES"] ?? ""): void {
    const variable = readOverrideVariable(text);
    this.#feeding.overrides.useVariable(variable.values);
    for (const fault of variable.faults) this.#feeding.report(fault);
  }

  /** @param found undefined where there is no such file */
  async useFile(found: Entry | undefined): Promise<void> {
    const { overrides, report } = this.#feeding;
    const { values, problems }: LocalOverrides = await readLocalOverrides(found);
    if (values) overrides.useLocalFile(values);
    const isLeftAlone = found !== undefined && !this.#feeding.allowsLocalOverrides();
    if (isLeftAlone && !this.#leftAlone)
      report(`${localOverridesFile} is left alone: this environment has no local-overrides.`);
    this.#leftAlone = isLeftAlone;
    if (problems.length > 0 && !isLeftAlone)
      report(`${localOverridesFile} cannot be used: ${summariseProblems(problems)}`, problems);
  }

  /** Reads the file of local overrides, where it does not stand among files that are followed. */
  async readFile(path: string | undefined): Promise<void> {
    if (path === undefined) return;
    const whole = resolve(path);
    const name = fileName(basename(whole));
    if (typeof name !== "string") return;
    const { entries } = await new Disk(dirname(whole)).some([name]);
    await this.useFile(entries.get(name));
  }
}
