/** Up to so many are looked for one after another, which is faster than a map for as many as a request asks. */
const few = 32;

/**
 * What a question has found out already: mostly of few things, out of many. A place for each of the many, in a list, would
 * be made and filled anew for every question.
 */
export class Known<Found> {
  private readonly keys: object[] = [];
  private readonly found: Found[] = [];
  private many: Map<object, Found> | undefined;

  get(key: object): Found | undefined {
    if (this.many) return this.many.get(key);
    const at = this.keys.indexOf(key);
    return at < 0 ? undefined : this.found[at];
  }

  /** Of one that is not known yet. */
  add(key: object, found: Found): void {
    if (this.many) this.many.set(key, found);
    else if (this.keys.push(key) && this.found.push(found) > few)
      this.many = new Map(this.keys.map((each, i) => [each, this.found[i]!]));
  }
}
