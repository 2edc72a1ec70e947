import type { FlagsEvents } from "iudex";

interface Listens {
  on<K extends keyof FlagsEvents>(event: K, listener: (event: FlagsEvents[K]) => void): () => void;
}

/** The next event of a kind. */
export function next<K extends keyof FlagsEvents>(flags: Listens, event: K): Promise<FlagsEvents[K]> {
  return new Promise((resolve) => {
    const off = flags.on(event, (value) => {
      off();
      resolve(value);
    });
  });
}

/** Keeps every event of a kind. */
export function collected<K extends keyof FlagsEvents>(flags: Listens, event: K): FlagsEvents[K][] {
  const events: FlagsEvents[K][] = [];
  flags.on(event, (value) => events.push(value));
  return events;
}

export function sleep(milliseconds: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, milliseconds));
}

/** Each who comes waits until so many have come. */
export function meeting(people: number): () => Promise<void> {
  let all = () => {};
  const promise = new Promise<void>((resolve) => {
    all = resolve;
  });
  let left = people;
  return () => {
    left -= 1;
    if (left === 0) all();
    return promise;
  };
}
