/** One answer for all environments that share it; where there are none, the one answer. */
export function alikeIn<T>(
  environments: readonly string[],
  ask: (environment: string | undefined) => T,
  cacheKey: (answer: T) => string,
): readonly { readonly environments: readonly string[] | undefined; readonly answer: T }[] {
  if (environments.length === 0) return [{ environments: undefined, answer: ask(undefined) }];
  const found = new Map<string, { readonly environments: string[]; readonly answer: T }>();
  for (const environment of environments) {
    const answer = ask(environment);
    const known = found.get(cacheKey(answer));
    if (known) known.environments.push(environment);
    else found.set(cacheKey(answer), { environments: [environment], answer });
  }
  const all = [...found.values()];
  return all.length === 1 ? [{ environments: undefined, answer: all[0]!.answer }] : all;
}
