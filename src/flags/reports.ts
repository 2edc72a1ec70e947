import { printable } from "../values/index.ts";
import type { FlagsEvents } from "./events.ts";
import type { Listeners } from "./listeners.ts";

/** What a person should look at: told to listeners, once there can be any. */
export class Reports {
  readonly #listeners: Listeners;
  /** What there is to say before anybody can listen: listeners are put on when the opening has been awaited. */
  #held: (() => void)[] | undefined = [];

  constructor(listeners: Listeners) {
    this.#listeners = listeners;
  }

  tell(message: string, problems: FlagsEvents["problem"]["problems"] = []): void {
    const tell = () => this.#listeners.emit("problem", { at: new Date(), message: printable(message), problems });
    if (this.#held) this.#held.push(tell);
    else tell();
  }

  /** Lets out what was held back while nobody could listen. */
  release(): void {
    const held = this.#held ?? [];
    this.#held = undefined;
    setImmediate(() => {
      for (const tell of held) tell();
    });
  }
}
