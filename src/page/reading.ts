/** Characters of one event, or of one answer, beyond which nothing of ours is to be expected. */
const longest = 4e6;

/** Hands out what comes, piece by piece, each time with what was left over. @returns what was left over at the end */
export async function readPieces(body: ReadableStream<Uint8Array>, take: (text: string) => string): Promise<string> {
  const reader = body.pipeThrough(new TextDecoderStream() as ReadableWritablePair<string, Uint8Array>).getReader();
  for (let rest = ""; rest.length < longest; ) {
    const { done, value } = await reader.read();
    if (done) return rest;
    rest = take(rest + value);
  }
  throw Error("found no end");
}

/** The fields of one server-sent event; a comment has no name. */
export type Fields = Partial<Record<string, string>>;

/**
 * Takes the whole events off a text: server-sent events (HTML standard), of which a service of ours ends every line with
 * one line feed, and repeats no field. Split at its first colon, a line gives name and value.
 *
 * @returns what is left
 */
export function takeEvents(text: string, tell: (fields: Fields) => void): string {
  const events = text.split("\n\n");
  const rest = events.pop()!;
  for (const event of events) tell(Object.fromEntries(event.split("\n").map((line) => line.split(/: ?(.*)/s))));
  return rest;
}
