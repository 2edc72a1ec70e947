/**
 * A function of a text that remembers what it made; once it knows `limit` texts it forgets them all and begins anew,
 * since texts come from files and can be anything. What it makes must depend on the text alone: this is the only thing
 * that a process keeps outside of the objects that a program holds.
 *
 * @param make is also told how many texts are known, for what must be spread and may be spread in any way
 */
export function memo<Made>(limit: number, make: (text: string, known: number) => Made): (text: string) => Made {
  const known = new Map<string, Made>();
  return (text) => {
    let made = known.get(text);
    if (made === undefined) {
      made = make(text, known.size);
      if (known.size >= limit) known.clear();
      known.set(text, made);
    }
    return made;
  };
}
