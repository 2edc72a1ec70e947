import type { ProblemAnswer, SessionAnswer } from "../../desk/index.ts";

/** What the desk answered when it would not do what it was asked for. */
export class Refused extends Error {
  readonly status: number;
  readonly help: string | undefined;

  constructor({ title, detail, status }: ProblemAnswer) {
    super(title);
    this.status = status;
    this.help = detail;
  }
}

/** The desk could not be reached at all. */
export class Unreachable extends Error {}

let token = "";

/** Who the page serves; what is asked from now on goes in their name. */
export async function openSession(): Promise<SessionAnswer> {
  const session = await get<SessionAnswer>("session");
  token = session.token;
  return session;
}

export async function get<T>(path: string, query: Readonly<Record<string, string>> = {}): Promise<T> {
  const text = new URLSearchParams(query).toString();
  return answerOf<T>(await reach(`api/${path}${text === "" ? "" : `?${text}`}`, {}));
}

/** Sends something. A session that has ended, since the desk was started anew, is opened again. */
export async function post<T>(path: string, body: unknown): Promise<T> {
  try {
    return await answerOf<T>(await send(path, body));
  } catch (error) {
    if (!(error instanceof Refused && error.status === 403)) throw error;
    const before = token;
    await openSession();
    if (token === before) throw error;
    return answerOf<T>(await send(path, body));
  }
}

function send(path: string, body: unknown): Promise<Response> {
  const headers = { "content-type": "application/json", "desk-token": token };
  return reach(`api/${path}`, { method: "POST", headers, body: JSON.stringify(body) });
}

/** Sends something, and takes what comes back line by line while the desk works. */
export async function postLines<T>(path: string, body: unknown, see: (line: T) => void): Promise<void> {
  const response = await send(path, body);
  if (!response.ok) return void (await answerOf(response));
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
  let text = "";
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    const lines = (text + value).split("\n");
    text = lines.pop() ?? "";
    for (const line of lines) if (line !== "") see(JSON.parse(line) as T);
  }
}

async function reach(path: string, init: RequestInit): Promise<Response> {
  try {
    return await fetch(path, init);
  } catch (error) {
    throw new Unreachable("The desk cannot be reached.", { cause: error });
  }
}

async function answerOf<T>(response: Response): Promise<T> {
  const body: unknown = await response.json().catch(() => undefined);
  if (response.ok) return body as T;
  const { status } = response;
  throw new Refused((body as ProblemAnswer | undefined) ?? { title: `The desk answered with ${status}.`, status });
}
