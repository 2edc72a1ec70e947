// Real servers on free ports of the loopback address, with their data in a temporary folder of their own.
import { execFile, execFileSync, spawn } from "node:child_process";
import { chownSync, existsSync, readdirSync, readFileSync, realpathSync, rmSync, statSync } from "node:fs";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { createConnection, createServer } from "node:net";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { promisify } from "node:util";
import { findProgram } from "./programs.mjs";

const pause = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));

/** Starts a program over a folder; what it gives can be killed, hung and started again. */
async function serve({ home, port, command, words, user, isReady }) {
  let child;
  const signal = (name) => {
    for (const id of [-child.pid, ...childrenOf(child.pid)]) {
      try {
        process.kill(id, name);
      } catch {
        // It has gone.
      }
    }
  };
  const server = {
    port,
    home,
    async start() {
      const started = spawn(command, words, {
        cwd: home,
        env: plainEnv(),
        stdio: ["ignore", "pipe", "pipe"],
        detached: true,
        ...user,
      });
      child = started;
      let said = "";
      for (const stream of [started.stdout, started.stderr]) stream.on("data", (text) => (said += text));
      for (let i = 0; i < 600; i++) {
        if (started.exitCode !== null) throw new Error(`${command} ended: ${said}`);
        if (await isReady()) return;
        await pause(50);
      }
      throw new Error(`${command} does not answer: ${said}`);
    },
    async kill() {
      if (child.exitCode !== null || child.signalCode !== null) return;
      const gone = new Promise((resolve) => child.once("exit", resolve));
      signal("SIGKILL");
      await gone;
    },
    hang: () => signal("SIGSTOP"),
    goOn: () => signal("SIGCONT"),
    async end() {
      await server.kill();
      await rm(home, { recursive: true, force: true, maxRetries: 5 });
    },
  };
  await server.start();
  return server;
}

/** A language that is not installed keeps an engine from starting. */
function plainEnv() {
  return { ...process.env, LC_ALL: "C" };
}

/** Those who serve connections may have left the group of the one who takes them. */
function childrenOf(id) {
  if (!existsSync("/proc")) return [];
  const all = readdirSync("/proc").filter((name) => /^\d+$/.test(name));
  return all.map(Number).filter((each) => parentOf(each) === id);
}

function parentOf(id) {
  try {
    const [, rest] = readFileSync(`/proc/${id}/stat`, "utf8").split(/\) \S+ /);
    return Number(rest.split(" ")[0]);
  } catch {
    return undefined;
  }
}

/** A port that nobody has at the moment. */
function freePort() {
  return new Promise((resolve) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
}

function answers(port) {
  return new Promise((resolve) => {
    const socket = createConnection(port, "127.0.0.1");
    socket.once("error", () => resolve(false)).once("connect", () => resolve(true) ?? socket.destroy());
  });
}

const homeOf = (name, folder = tmpdir()) => mkdtemp(join(folder, `iudex-${name}-`));

/** A temporary folder that another user may enter, too; the usual one may lie in somebody's own. */
function sharedTemporaryFolder() {
  const lets = (folder) =>
    (statSync(folder).mode & 0o001) !== 0 && (folder === dirname(folder) || lets(dirname(folder)));
  return [tmpdir(), "/tmp", "/var/tmp"].find((folder) => existsSync(folder) && lets(realpathSync(folder)));
}

export async function startRedis() {
  const [home, port] = [await homeOf("redis"), await freePort()];
  const kept = ["--dir", home, "--appendonly", "yes", "--appendfsync", "always", "--save", ""];
  const words = ["--port", String(port), "--bind", "127.0.0.1", "--maxclients", "2000", ...kept];
  return serve({ home, port, command: findProgram("redis-server"), words, isReady: () => answers(port) });
}

/** A cluster with a database “postgres” and a superuser “postgres”, without passwords. */
export async function startPostgres() {
  // PostgreSQL refuses to run as root.
  const user = process.getuid?.() === 0 ? ownerOfPostgres() : undefined;
  const [home, port] = [await homeOf("postgres", user && sharedTemporaryFolder()), await freePort()];
  const url = `postgres://postgres@127.0.0.1:${port}/postgres`;
  const data = join(home, "data");
  if (user) chownSync(home, user.uid, user.gid);
  emptyCluster ??= makeCluster(user);
  await promisify(execFile)("cp", ["-a", await emptyCluster, data]);
  const settings = {
    listen_addresses: "127.0.0.1",
    unix_socket_directories: "",
    max_connections: 600,
    fsync: "off",
    port,
  };
  const words = Object.entries(settings).flatMap(([key, value]) => ["-c", `${key}=${value}`]);
  const isReady = () => takesQueries(url);
  const server = await serve({
    home,
    port,
    command: findProgram("postgres"),
    words: ["-D", data, ...words],
    user,
    isReady,
  });
  return Object.assign(server, { url });
}

/** What every cluster of this process is a copy of, gone when it ends: making one takes seconds. */
let emptyCluster;

async function makeCluster(user) {
  const home = await homeOf("cluster", user && sharedTemporaryFolder());
  process.once("exit", () => rmSync(home, { recursive: true, force: true }));
  if (user) chownSync(home, user.uid, user.gid);
  const data = join(home, "data");
  const quiet = ["--no-sync", "--no-instructions", "--auth=trust", "--username=postgres", "--encoding=UTF8"];
  await promisify(execFile)(findProgram("initdb"), [...quiet, "--pgdata", data], {
    cwd: home,
    env: plainEnv(),
    ...user,
  });
  return data;
}

async function takesQueries(connectionString) {
  const { default: pg } = await import("pg");
  const client = new pg.Client({ connectionString, connectionTimeoutMillis: 1_000 });
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

function ownerOfPostgres() {
  const id = (word) => Number(execFileSync("id", [word, "postgres"], { encoding: "utf8" }));
  return { uid: id("-u"), gid: id("-g") };
}

/** A web server over a folder. */
export async function startNginx(folder) {
  const [home, port] = [await homeOf("nginx"), await freePort()];
  const config = join(home, "nginx.conf");
  const temporary = ["client_body", "proxy", "fastcgi", "uwsgi", "scgi"].map(
    (name) => `${name}_temp_path "${home}/${name}";`,
  );
  await writeFile(
    config,
    `daemon off; pid "${home}/pid"; error_log stderr error; worker_processes 1;
     ${process.getuid?.() === 0 ? "user root;" : ""}
     events { worker_connections 1024; }
     http { access_log off; default_type application/octet-stream; ${temporary.join(" ")}
       server { listen 127.0.0.1:${port}; root "${folder}"; } }`,
  );
  const words = ["-p", home, "-c", config];
  const server = await serve({ home, port, command: findProgram("nginx"), words, isReady: () => answers(port) });
  return Object.assign(server, { url: `http://127.0.0.1:${port}/` });
}
