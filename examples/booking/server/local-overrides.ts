import { readFile, rm, writeFile } from "node:fs/promises";
import { type Document, isMap, parseDocument } from "yaml";

/** The file cannot be read, and is therefore not written either. */
export class UnreadableFile extends Error {}

/**
 * The developer's own file beside the shared ones; the library sees it as it sees any save. It may be written by hand as
 * well: comments and order stay.
 */
export class LocalOverrides {
  readonly #file: string;
  #writing: Promise<void> = Promise.resolve();

  constructor(file: string) {
    this.#file = file;
  }

  /** One after the other; null takes the override off. */
  set(flag: string, value: unknown): Promise<void> {
    const write = async () => {
      const document = await this.#read();
      if (value === null) document.deleteIn(["overrides", flag]);
      else document.setIn(["overrides", flag], value);
      const left = document.get("overrides");
      const isEmpty = !isMap(left) || left.items.length === 0;
      if (isEmpty && document.commentBefore == null && document.comment == null) await rm(this.#file, { force: true });
      else await writeFile(this.#file, String(document));
    };
    const written = this.#writing.then(write);
    this.#writing = written.catch(() => {});
    return written;
  }

  async #read(): Promise<Document> {
    const text = await readFile(this.#file, "utf8").catch((error: NodeJS.ErrnoException) => {
      if (error.code === "ENOENT") return "iudex: 1\noverrides: {}\n";
      throw error;
    });
    const document = parseDocument(text);
    if (document.errors.length > 0 || !isMap(document.contents))
      throw new UnreadableFile("overrides.local.yaml is not valid YAML; mend it first, so that nothing in it is lost.");
    if (!isMap(document.get("overrides"))) document.set("overrides", document.createNode({}));
    return document;
  }
}
