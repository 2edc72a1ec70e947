import type { Progress } from "../study/index.ts";
import { number, type Output } from "./output.ts";

/** How often a line is written over on a terminal, and a new one begun elsewhere, in milliseconds. */
const liveEvery = 100;
const loggedEvery = 5_000;

/** Tells on standard error how far a long reading has come, how fast it goes and how long it will take. */
export function progressLine(output: Output): { see(progress: Progress): void; done(): void } {
  const started = performance.now();
  const every = output.liveErr ? liveEvery : loggedEvery;
  let told = started;
  let shown = false;
  return {
    see({ bytes, totalBytes, contexts }) {
      const now = performance.now();
      if (now - told < every) return;
      told = now;
      const seconds = (now - started) / 1_000;
      const left = bytes === 0 ? 0 : (seconds * (totalBytes - bytes)) / bytes;
      const part = totalBytes === 0 ? "" : ` (${Math.floor((bytes / totalBytes) * 100)}%)`;
      const text = `${number(contexts)} contexts${part}, ${number(Math.round(contexts / seconds))} a second, ${duration(left)} left`;
      output.err(output.liveErr ? `\r\u001b[K${text}` : `${text}\n`);
      shown = true;
    },
    done() {
      if (shown && output.liveErr) output.err("\r\u001b[K");
    },
  };
}

function duration(seconds: number): string {
  if (seconds < 90) return `${Math.ceil(seconds)} s`;
  return seconds < 5_400 ? `${Math.round(seconds / 60)} min` : `${(seconds / 3_600).toFixed(1)} h`;
}
