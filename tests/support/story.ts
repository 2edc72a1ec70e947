/** When the story of the ferry line is told: noon on the islands, 2 December 2026. */
export const storyTime: number = Date.parse("2026-12-02T12:00:00Z");

/** A clock that shows the story's time when it is made, and ticks. */
export function storyClock(startsAt = storyTime): () => number {
  const began = performance.now();
  return () => startsAt + Math.floor(performance.now() - began);
}
