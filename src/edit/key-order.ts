/** How many of the keys stand before a new one: all up to the last that people write before it. */
export function placeAmong(keys: readonly string[], key: string, order: readonly string[]): number {
  const rank = order.indexOf(key);
  if (rank < 0) return keys.length;
  let place = 0;
  for (const [i, each] of keys.entries()) {
    const other = order.indexOf(each);
    if (other >= 0 && other < rank) place = i + 1;
  }
  return place;
}
