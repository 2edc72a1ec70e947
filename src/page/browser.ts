/** Calls when the page is looked at again or is online again, and when it may not come back. Outside of a page, never. */
export function watchPage(signal: AbortSignal, wake: () => void, leave: () => void): void {
  const page = globalThis.document;
  page?.addEventListener("visibilitychange", () => (page.hidden ? leave : wake)(), { signal });
  globalThis.addEventListener?.("online", wake, { signal });
}
