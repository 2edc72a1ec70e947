/** A kind of experiment whose truth is known. */
export interface Experiment {
  readonly name: string;
}
export const experiments: readonly Experiment[];
/** The parts of experiments in which the interval for one look held, and in which anything was wrong at any look. */
export function simulate(
  kind: Experiment,
  many: number,
  folder: string,
  seed?: number,
): Promise<{ readonly held: number | undefined; readonly missed: number }>;
