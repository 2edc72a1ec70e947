/** How often a random test is repeated: rarely where each of thousands of mutants runs it. */
export function runs(count: number): number {
  return process.env["IUDEX_FEW_RUNS"] === undefined ? count : Math.min(count, 25);
}

/** How many processes are killed in a test; a long run asks for more by IUDEX_KILLS. */
export function kills(count: number): number {
  return Number(process.env["IUDEX_KILLS"] ?? count);
}
