declare global {
  /** The path that this installation is under; absent where it has a host to itself. */
  var slatePath: string | undefined;
}

/** An address of our own, for what does not go through the framework, which knows by itself what all of them begin with. */
export const here = (path: string): string => `${globalThis.slatePath ?? ''}${path}`;

/** The same with the host, to be given to somebody; there is none on the server. */
export const hereInFull = (path: string): string => window.location.origin + here(path);
