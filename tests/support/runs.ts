/** How often a random test is repeated: rarely where each of thousands of mutants runs it. */
export function runs(count: number): number {
  return process.env["IUDEX_FEW_RUNS"] === undefined ? count : Math.min(count, 25);
}

/** How many processes are killed in a test; a long run asks for more by IUDEX_KILLS. */
export function kills(count: number): number {
  return Number(process.env["IUDEX_KILLS"] ?? count);
}

/** Publishers at once and followers beside each killed publisher; a long run asks for more by IUDEX_CROWD="4 50". */
export const [publishersAtOnce = 2, followersAtOnce = 2] = numbersIn("IUDEX_CROWD");

/** How often, and for how many milliseconds each, an engine hangs; a long run asks for more by IUDEX_HANGS="3 13000". */
export const [hangs = 2, hangTime = 7_000] = numbersIn("IUDEX_HANGS");

function numbersIn(variable: string): number[] {
  const text = process.env[variable] ?? "";
  return text === "" ? [] : text.split(" ").map(Number);
}
