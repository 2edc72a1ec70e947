/** A server that can be killed, hung and started again over the same data. */
export interface Engine {
  readonly port: number;
  /** The folder of its data. */
  readonly home: string;
  start(): Promise<void>;
  /** By SIGKILL. */
  kill(): Promise<void>;
  /** Stopped, not closed: connections stay open and nothing answers. */
  hang(): void;
  goOn(): void;
  /** Kills it, and takes its data away. */
  end(): Promise<void>;
}

export function startRedis(): Promise<Engine>;
/** A cluster with a database “postgres” and a superuser “postgres”, without passwords. */
export function startPostgres(): Promise<Engine & { readonly url: string }>;
/** A web server over a folder. */
export function startNginx(folder: string): Promise<Engine & { readonly url: string }>;
