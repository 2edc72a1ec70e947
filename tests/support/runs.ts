/** How often a random test is repeated: rarely where each of thousands of mutants runs it. */
export function runs(count: number): number {
  return process.env["IUDEX_FEW_RUNS"] === undefined ? count : Math.min(count, 25);
}
