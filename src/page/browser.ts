/** Calls whenever the page comes into view, or goes out of it, and may not come back. Outside of a page, never. */
export function whenInView(isInView: boolean, call: () => void, signal: AbortSignal): void {
  const page = globalThis.document;
  page?.addEventListener("visibilitychange", () => page.hidden !== isInView && call(), { signal });
}
