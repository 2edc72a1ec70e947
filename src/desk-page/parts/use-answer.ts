import { useEffect, useState } from "preact/hooks";
import { get } from "../service/ask.ts";

/** What the desk answered; why it did not, as a text; nothing until it has. */
export type Answered<T> = T | string | undefined;

/**
 * Asks the desk for something, and again whenever one of these is another.
 *
 * @param again besides the request itself
 * @param every milliseconds after which it is asked for once more; never if left out
 */
export function useAnswer<T extends object>(
  path: string,
  query: Readonly<Record<string, string>>,
  again: readonly unknown[],
  every?: number,
): Answered<T> {
  const [found, setFound] = useState<Answered<T>>(undefined);
  useEffect(() => {
    let isOver = false;
    const look = () =>
      get<T>(path, query)
        .then((answer) => !isOver && setFound(answer))
        .catch((error: Error) => !isOver && setFound(error.message));
    void look();
    const timer = every === undefined ? undefined : setInterval(look, every);
    return () => {
      isOver = true;
      clearInterval(timer);
    };
  }, [path, JSON.stringify(query), ...again]);
  return found;
}
