import { randomUUID } from "node:crypto";
import { mkdirSync } from "node:fs";
import { dirname } from "node:path";
import sqlite from "node-sqlite3-wasm";

/** A seat held for somebody until it is paid. */
export interface Hold {
  readonly id: string;
  readonly crossing: string;
  readonly seat: string;
  readonly traveller: string | null;
  readonly crowns: number;
  /** Epoch milliseconds. */
  readonly until: number;
  readonly state: "held" | "paid" | "checked-in";
}

/** Holds and bookings in an embedded SQLite. */
export class Store {
  readonly #database: InstanceType<typeof sqlite.Database>;

  /** @param file a path, or `:memory:` */
  constructor(file: string) {
    if (file !== ":memory:") mkdirSync(dirname(file), { recursive: true });
    this.#database = new sqlite.Database(file);
    this.#database.run(
      `CREATE TABLE IF NOT EXISTS holds (
        id TEXT PRIMARY KEY, crossing TEXT NOT NULL, seat TEXT NOT NULL, traveller TEXT,
        crowns INTEGER NOT NULL, until REAL NOT NULL, state TEXT NOT NULL)`,
    );
  }

  /** Undefined where somebody else has the seat. */
  hold(wanted: Omit<Hold, "id" | "state">, now: number): Hold | undefined {
    if (this.taken(wanted.crossing, now).includes(wanted.seat)) return undefined;
    const hold: Hold = { ...wanted, id: randomUUID(), state: "held" };
    const { id, crossing, seat, traveller, crowns, until, state } = hold;
    this.#database.run("INSERT INTO holds VALUES (?, ?, ?, ?, ?, ?, ?)", [
      id,
      crossing,
      seat,
      traveller,
      crowns,
      until,
      state,
    ]);
    return hold;
  }

  find(id: string): Hold | undefined {
    return (this.#database.get("SELECT * FROM holds WHERE id = ?", [id]) as Hold | null) ?? undefined;
  }

  /** Seats that are paid, or held and not yet run out. */
  taken(crossing: string, now: number): string[] {
    const rows = this.#database.all("SELECT seat FROM holds WHERE crossing = ? AND (state != 'held' OR until > ?)", [
      crossing,
      now,
    ]);
    return rows.map((row) => String((row as { seat: unknown }).seat));
  }

  move(id: string, state: Hold["state"]): void {
    this.#database.run("UPDATE holds SET state = ? WHERE id = ?", [state, id]);
  }

  close(): void {
    this.#database.close();
  }
}
