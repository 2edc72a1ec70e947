/**
 * Moves the clock of everything that runs here. It ticks as before. What takes it along must be all in this function: a
 * page gets it as text.
 *
 * @param {number} by milliseconds
 */
export function shiftClock(by) {
  const Real = globalThis.Date;
  const realNow = Real.now;
  Real.now = () => realNow() + by;
  globalThis.Date = new Proxy(Real, {
    construct: (target, words, made) => Reflect.construct(target, words.length === 0 ? [Real.now()] : words, made),
    apply: () => new Real(Real.now()).toString(),
  });
  Real.prototype.constructor = globalThis.Date;
}
