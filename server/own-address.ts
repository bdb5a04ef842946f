/** Where this process itself serves pages, for what it has to look at as a browser does; null before it serves. */
let known: string | null = null;

export const ownAddress = (): string | null => known;

export function serveAt(port: number, host: string, path: string): void {
  // What listens everywhere is reached on this machine.
  const name = host === '0.0.0.0' || host === '::' ? '127.0.0.1' : host;
  known = `http://${name.includes(':') ? `[${name}]` : name}:${port}${path}`;
}
