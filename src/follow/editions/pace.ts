/** The shortest wait after a look that did not get everything, in milliseconds; it doubles up to the usual one. */
const soonest = 250;

/**
 * How long to wait before the next look, in milliseconds.
 *
 * @param every the usual wait; a random part of up to a tenth is taken off, so that many followers do not fall into step
 * @param asked what the shelf asks for
 * @param incomplete how many looks in a row found an edition that was not all there
 */
export function nextWait(every: number, asked: number | undefined, incomplete: number): number {
  const usual = every * (0.9 + 0.1 * Math.random());
  if (asked !== undefined) return Math.max(usual, asked);
  return incomplete === 0 ? usual : Math.min(usual, soonest * 2 ** (incomplete - 1));
}
