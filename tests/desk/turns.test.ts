import { expect, test } from "vitest";
import { Turns } from "../../src/desk/turns.ts";

const nobodyLeaves = new AbortController().signal;

/** Work that ends when it is told to, and a list of what has begun. */
function stage() {
  const turns = new Turns();
  const begun: string[] = [];
  const ends = new Map<string, () => void>();
  const ask = (person: string, what: string, signal = nobodyLeaves) =>
    turns.ask(person).run(signal, () => {
      begun.push(what);
      return new Promise<void>((resolve) => ends.set(what, resolve));
    });
  const end = async (what: string) => {
    ends.get(what)!();
    await settled();
  };
  return { turns, begun, ask, end };
}

function settled(): Promise<void> {
  return new Promise((resolve) => setImmediate(resolve));
}

test("each person has one thing under way, and those who wait are served by turns", async () => {
  const { begun, ask, end } = stage();
  for (let i = 1; i <= 4; i++) void ask("Ylva", `Ylva ${i}`);
  void ask("Tarn", "Tarn 1");
  void ask("Nils", "Nils 1");
  void ask("Tarn", "Tarn 2");
  await settled();
  // Two at a time, of different people.
  expect(begun).toEqual(["Ylva 1", "Tarn 1"]);
  await end("Ylva 1");
  await end("Tarn 1");
  await end("Nils 1");
  await end("Ylva 2");
  await end("Tarn 2");
  await end("Ylva 3");
  await end("Ylva 4");
  expect(begun).toEqual(["Ylva 1", "Tarn 1", "Nils 1", "Ylva 2", "Tarn 2", "Ylva 3", "Ylva 4"]);
});

test("a page that leaves gives its place away, and a person who asks for too much is told", async () => {
  const { turns, begun, ask, end } = stage();
  void ask("Ylva", "Ylva 1");
  const leaving = new AbortController();
  const left = ask("Ylva", "never", leaving.signal);
  leaving.abort();
  await expect(left).rejects.toThrow("The page has left.");
  await expect(ask("Ylva", "never", leaving.signal)).rejects.toThrow("The page has left.");
  for (let i = 2; i <= 20; i++) void ask("Ylva", `Ylva ${i}`);
  await settled();
  expect(() => turns.ask("Ylva")).toThrow("You have asked for 20 things that take long.");
  await end("Ylva 1");
  expect(begun).toEqual(["Ylva 1", "Ylva 2"]);
  void ask("Ylva", "Ylva 21");
  void ask("Tarn", "Tarn 1");
  await settled();
  expect(begun.at(-1)).toBe("Tarn 1");
});

test("work that fails gives its place to the next", async () => {
  const { turns, begun, ask } = stage();
  const failing = turns.ask("Ylva").run(nobodyLeaves, () => Promise.reject(new Error("torn")));
  void ask("Ylva", "Ylva 2");
  await expect(failing).rejects.toThrow("torn");
  await settled();
  expect(begun).toEqual(["Ylva 2"]);
});
