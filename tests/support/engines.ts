import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { chownSync } from "node:fs";
import { mkdir, mkdtemp, rm, writeFile } from "node:fs/promises";
import { createConnection, createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { onTestFinished } from "vitest";
import { findProgram, missingEngines } from "../../scripts/engines.mjs";
import { sleep } from "./waiting.ts";

// Real servers on free ports of the loopback address, with their data in a folder that goes with the test.

/** Whether an engine is here; tests of one that is not are named as skipped. */
export function has(engine: "nginx" | "redis" | "postgres"): boolean {
  return !missingEngines().includes(engine);
}

/** A server that can be killed, hung and started again over the same data. */
export interface Engine {
  readonly port: number;
  readonly home: string;
  start(): Promise<void>;
  /** By SIGKILL. */
  kill(): Promise<void>;
  /** Stopped, not closed: connections stay open and nothing answers. */
  hang(): void;
  goOn(): void;
}

interface Program {
  readonly home: string;
  readonly port: number;
  readonly command: string;
  readonly words: readonly string[];
  readonly user?: { readonly uid: number; readonly gid: number } | undefined;
  isReady(): Promise<boolean>;
}

async function engine(program: Program): Promise<Engine> {
  const { home, port, command, words, user } = program;
  let child: ChildProcess | undefined;
  const start = async () => {
    const started = spawn(command, words, { cwd: home, stdio: ["ignore", "pipe", "pipe"], detached: true, ...user });
    child = started;
    let said = "";
    for (const stream of [started.stdout, started.stderr]) stream.on("data", (text) => (said += String(text)));
    for (let i = 0; i < 600; i++) {
      if (started.exitCode !== null) throw new Error(`${command} ended: ${said}`);
      if (await program.isReady()) return;
      await sleep(50);
    }
    throw new Error(`${command} does not answer: ${said}`);
  };
  const signal = (name: NodeJS.Signals) => {
    try {
      process.kill(-child!.pid!, name);
    } catch {
      // It has gone.
    }
  };
  const kill = async () => {
    const dying = child;
    if (!dying || dying.exitCode !== null || dying.signalCode !== null) return;
    const gone = new Promise((resolve) => dying.once("exit", resolve));
    signal("SIGKILL");
    await gone;
  };
  await start();
  onTestFinished(async () => {
    await kill();
    await rm(home, { recursive: true, force: true, maxRetries: 5 });
  });
  return { port, home, start, kill, hang: () => signal("SIGSTOP"), goOn: () => signal("SIGCONT") };
}

export async function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });
}

function answers(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const socket = createConnection(port, "127.0.0.1");
    socket.once("connect", () => resolve(true)).once("error", () => resolve(false));
    socket.once("connect", () => socket.destroy());
  });
}

function home(name: string): Promise<string> {
  return mkdtemp(join(tmpdir(), `iudex-${name}-`));
}

export async function startRedis(): Promise<Engine> {
  const [folder, port] = [await home("redis"), await freePort()];
  const words = ["--port", String(port), "--bind", "127.0.0.1", "--dir", folder, "--appendonly", "yes", "--save", ""];
  return engine({
    home: folder,
    port,
    command: findProgram("redis-server")!,
    words: [...words, "--appendfsync", "always", "--maxclients", "2000"],
    isReady: () => answers(port),
  });
}

/** A cluster with a database “postgres” and a superuser “postgres”, without passwords. */
export async function startPostgres(): Promise<Engine & { readonly url: string }> {
  const [folder, port] = [await home("postgres"), await freePort()];
  const user = process.getuid?.() === 0 ? ownerOfPostgres() : undefined;
  const data = join(folder, "data");
  await mkdir(data);
  if (user) for (const each of [folder, data]) chownSync(each, user.uid, user.gid);
  const quiet = ["--no-sync", "--no-instructions", "--auth=trust", "--username=postgres", "--encoding=UTF8"];
  execFileSync(findProgram("initdb")!, [...quiet, "--pgdata", data], { cwd: folder, stdio: "ignore", ...user });
  const settings = { listen_addresses: "127.0.0.1", unix_socket_directories: "", max_connections: "600", fsync: "off" };
  const words = Object.entries({ ...settings, port: String(port) }).flatMap(([key, value]) => [
    "-c",
    `${key}=${value}`,
  ]);
  const started = await engine({
    home: folder,
    port,
    command: findProgram("postgres")!,
    words: ["-D", data, ...words],
    user,
    isReady: () => takesQueries(port),
  });
  return { ...started, url: urlOf(port) };
}

function urlOf(port: number): string {
  return `postgres://postgres@127.0.0.1:${port}/postgres`;
}

async function takesQueries(port: number): Promise<boolean> {
  const { default: pg } = await import("pg");
  const client = new pg.Client({ connectionString: urlOf(port), connectionTimeoutMillis: 1_000 });
  client.on("error", () => {});
  try {
    await client.connect();
    await client.query("select 1");
    return true;
  } catch {
    return false;
  } finally {
    await client.end().catch(() => {});
  }
}

/** PostgreSQL refuses to run as root. */
function ownerOfPostgres(): { readonly uid: number; readonly gid: number } {
  const id = (word: string) => Number(execFileSync("id", [word, "postgres"], { encoding: "utf8" }));
  return { uid: id("-u"), gid: id("-g") };
}

/** A web server over a folder. @param settings more of the server's configuration */
export async function startNginx(folder: string, settings = ""): Promise<Engine & { readonly url: string }> {
  const [where, port] = [await home("nginx"), await freePort()];
  const config = join(where, "nginx.conf");
  const temporary = ["client_body", "proxy", "fastcgi", "uwsgi", "scgi"].map(
    (name) => `${name}_temp_path ${where}/${name};`,
  );
  await writeFile(
    config,
    `daemon off; pid ${where}/pid; error_log stderr error; worker_processes 1;
     ${process.getuid?.() === 0 ? "user root;" : ""}
     events { worker_connections 1024; }
     http { access_log off; default_type application/octet-stream; ${temporary.join(" ")}
       server { listen 127.0.0.1:${port}; root ${folder}; ${settings} } }`,
  );
  const started = await engine({
    home: where,
    port,
    command: findProgram("nginx")!,
    words: ["-p", where, "-c", config],
    isReady: () => answers(port),
  });
  return { ...started, url: `http://127.0.0.1:${port}/` };
}
