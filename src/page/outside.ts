/** Calls what is not ours. What it throws is the page's own: told by the browser, and no hindrance here. */
export function outside(call: () => unknown): void {
  try {
    call();
  } catch (error) {
    void Promise.reject(error);
  }
}
