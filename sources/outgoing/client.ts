import { setTimeout as sleep } from 'node:timers/promises';
import type { Agent, Dispatcher, Response } from 'undici';
import { toldLimits } from '#core/dataset/http/limits.ts';
import { type ProblemCode, ProblemError, stoppedProblem } from '#core/value/problem/problem.ts';
import { type AllowedHosts, checkedAddresses, type HostAddress } from '#engine/outgoing/addresses.ts';
import { trustOptions } from '#engine/outgoing/tls.ts';

/** What counts the calls of a source against its daily allowance, in every process. */
export interface Budget {
  /** Takes one call. Throws a {@link ProblemError} when none is left, or the service has asked to wait. */
  spend(doing: string): Promise<void>;
  /** What the service itself said is left, and until when it wants no more calls. */
  told(limits: { left: number | null; until: Date | null }): Promise<void>;
}

export interface Outgoing {
  readonly address: string;
  readonly method?: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE' | undefined;
  readonly headers?: Readonly<Record<string, string>> | undefined;
  readonly body?: string | null | undefined;
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
  /** Bytes, unpacked. */
  readonly most?: number;
  /** May be sent again though it is no GET: the service changes nothing for it. */
  readonly isSafe?: boolean;
  /** Told of each call that is made, repeats and redirects too. */
  readonly onCall?: (() => void) | undefined;
}

export interface Answered {
  /** The address that answered, after redirects. */
  readonly address: string;
  readonly status: number;
  readonly header: (name: string) => string | null;
  readonly text: string;
  readonly calls: number;
}

export interface ClientOptions {
  readonly allowed: AllowedHosts;
  readonly budget: Budget;
  /** Certificates (PEM) of an authority of one's own, trusted beside the usual ones. */
  readonly authority?: string | undefined;
  /** Texts that no error may hold. */
  readonly secrets: readonly string[];
  readonly now?: () => Date;
  /** Milliseconds until headers, and between pieces of a body. */
  readonly patienceMs?: number;
  readonly resolve?: Parameters<typeof checkedAddresses>[4];
}

const mostRedirects = 5;
const mostTries = 4;
/** A longer wait than this is told rather than waited for. */
const longestWaitMs = 30_000;
const usualMost = 64_000_000;
const wholeCallMs = 120_000;

interface Caller {
  readonly fetch: typeof import('undici').fetch;
  readonly agent: Agent;
}

/** Takes secrets out of what a person will read. */
export function scrub(text: string, secrets: readonly string[]): string {
  return secrets
    .filter((secret) => secret.length > 3)
    .flatMap((secret) => [secret, encodeURIComponent(secret)])
    .reduce((clean, secret) => clean.replaceAll(secret, '…'), text);
}

/** An address without its query, which may hold a key. */
export const bareAddress = (address: string): string => {
  const { origin, pathname } = new URL(address);
  return `${origin}${pathname}`;
};

/**
 * The one way out over HTTP. Addresses are checked when the connection is made, at each redirect too; time and size are
 * limited, unpacked; calls are counted; `Retry-After` is obeyed; what failed in passing is tried again, with a jittered
 * wait, where asking twice changes nothing. Throws a {@link ProblemError}, never with a credential in it.
 */
export function outgoingClient(options: ClientOptions) {
  const {
    allowed,
    authority,
    budget,
    secrets,
    now = () => new Date(),
    patienceMs = 30_000,
    resolve,
  } = options;
  const agentOptions = {
    connect: {
      timeout: 8_000,
      ...trustOptions(authority),
      // The port was looked at before; a name is not told which it is for.
      lookup: (host: string, _: object, done: (thrown: Error | null, found: HostAddress[]) => void) => {
        checkedAddresses(host, null, allowed, 'connecting', resolve).then(
          (found) => done(null, found),
          (thrown: Error) => done(thrown, []),
        );
      },
    } as never,
    headersTimeout: patienceMs,
    bodyTimeout: patienceMs,
    maxRedirections: 0,
  } as Agent.Options;
  // Most processes call nobody, so the library is loaded for the first call.
  let calling: Promise<Caller> | undefined;
  const caller = async (): Promise<Caller> => {
    const { Agent, fetch } = await import('undici');
    return { fetch, agent: new Agent(agentOptions) };
  };

  async function once(asked: Outgoing): Promise<{ response: Response; address: string; calls: number }> {
    let { address, method = 'GET', headers = {}, body = null } = asked;
    let calls = 0;
    for (let hop = 0; ; hop += 1) {
      const url = new URL(address);
      if (url.protocol !== 'http:' && url.protocol !== 'https:')
        throw badAnswer(
          asked.doing,
          `${asked.address} leads to an address of another kind (${url.protocol})`,
        );
      const port = Number(url.port || (url.protocol === 'https:' ? 443 : 80));
      // A name is looked at again when the connection is made; an address that is written out never gets that far.
      await checkedAddresses(url.hostname, port, allowed, asked.doing, resolve).catch((thrown) => {
        throw hop > 0 && thrown instanceof ProblemError ? redirected(thrown, asked.address, address) : thrown;
      });
      await budget.spend(asked.doing);
      calls += 1;
      asked.onCall?.();
      calling ??= caller();
      const { fetch, agent } = await calling;
      const response = await fetch(url, {
        method,
        headers: { 'accept-encoding': 'gzip, deflate, br', ...headers },
        body,
        redirect: 'manual',
        signal: asked.signal ?? null,
        dispatcher: agent as Dispatcher,
      });
      const location = response.headers.get('location');
      if (![301, 302, 303, 307, 308].includes(response.status) || location === null)
        return { response, address, calls };
      await response.body?.cancel();
      if (hop >= mostRedirects) throw badAnswer(asked.doing, 'it is redirected again and again');
      const next = new URL(location, url);
      // What proves who asks goes to the host that it is for, and no other.
      if (next.origin !== url.origin)
        headers = Object.fromEntries(
          Object.entries(headers).filter(([name]) => /^(accept|user-agent|content-type)$/i.test(name)),
        );
      if (response.status === 303 || (response.status < 303 && method === 'POST')) {
        method = 'GET';
        body = null;
      }
      address = next.href;
    }
  }

  async function readBody(response: Response, { most = usualMost, doing }: Outgoing): Promise<string> {
    const decoder = new TextDecoder(charsetOf(response.headers.get('content-type')));
    let [text, size] = ['', 0];
    for await (const piece of response.body ?? []) {
      size += (piece as Uint8Array).length;
      if (size > most)
        throw new ProblemError({
          code: 'too-much',
          doing,
          why: `the answer is larger than ${Math.round(most / 1e6)} MB, unpacked`,
          mend: 'Ask for fewer records at once: set the size of a page.',
        });
      text += decoder.decode(piece as Uint8Array, { stream: true });
    }
    return text + decoder.decode();
  }

  async function call(asked: Outgoing): Promise<Answered> {
    const { doing, signal } = asked;
    const mayRepeat = (asked.method ?? 'GET') === 'GET' || asked.isSafe === true;
    let calls = 0;
    for (let attempt = 1; ; attempt += 1) {
      const whole = AbortSignal.timeout(wholeCallMs);
      const limited = { ...asked, signal: signal ? AbortSignal.any([signal, whole]) : whole };
      let waitMs = 250 * 2 ** attempt * (0.5 + Math.random());
      try {
        const { response, address, calls: spent } = await once(limited);
        calls += spent;
        const header = (name: string): string | null => response.headers.get(name);
        const limits = toldLimits(header, now());
        const isBusy = response.status === 429 || response.status === 503;
        const until =
          limits.waitSeconds !== null && (isBusy || limits.left === 0)
            ? new Date(now().getTime() + limits.waitSeconds * 1000)
            : null;
        if (limits.left !== null || until)
          await budget.told({ left: limits.left, until: isBusy ? until : null });
        const isPassing = isBusy || response.status === 502 || response.status === 504;
        // What is refused for there being too much of it was not done.
        const mayAgain = mayRepeat || response.status === 429;
        if (!isPassing || !mayAgain || attempt >= mostTries) {
          const text = await readBody(response, limited);
          // What a service says of a call it refuses is shown to people, and may repeat what it was sent.
          return {
            address,
            status: response.status,
            header,
            text: response.ok ? text : scrub(text, secrets),
            calls,
          };
        }
        await response.body?.cancel();
        if (limits.waitSeconds !== null) waitMs = limits.waitSeconds * 1000;
        if (waitMs > longestWaitMs) throw askedToWait(doing, until ?? new Date(now().getTime() + waitMs));
      } catch (thrown) {
        if (signal?.aborted) throw stoppedProblem(doing);
        const problem = problemOfCall(thrown, doing, bareAddress(asked.address));
        if (!mayRepeat || attempt >= mostTries || !isFleeting(problem)) throw cleaned(problem, secrets);
      }
      await sleep(waitMs, undefined, { signal: signal ?? undefined }).catch(() => {
        throw stoppedProblem(doing);
      });
    }
  }
  return { call, close: async () => (await calling)?.agent.close() };
}

export type HttpClient = ReturnType<typeof outgoingClient>;

function charsetOf(type: string | null): string {
  const [, charset = 'utf-8'] = /charset="?([\w-]+)/i.exec(type ?? '') ?? [];
  try {
    return new TextDecoder(charset).encoding;
  } catch {
    return 'utf-8';
  }
}

/** A problem of where a call was sent on to, with both addresses. */
const redirected = ({ problem }: ProblemError, from: string, to: string): ProblemError =>
  new ProblemError({ ...problem, why: `${from} sends on to ${to}, where ${problem.why}` });

const badAnswer = (doing: string, why: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing, why, mend: 'Check the address.' });

export const askedToWait = (doing: string, until: Date): ProblemError =>
  new ProblemError({
    code: 'too-much',
    doing,
    why: `the service asks for no more calls until ${until.toISOString().slice(0, 19)}Z`,
    mend: 'It is asked again after that. Fetch less often if this happens every day.',
  });

const isFleeting = ({ problem }: ProblemError): boolean =>
  problem.code === 'unreachable' || problem.code === 'time-out';

function cleaned({ problem }: ProblemError, secrets: readonly string[]): ProblemError {
  return new ProblemError({ ...problem, why: scrub(problem.why, secrets) });
}

const meanings: readonly [RegExp, ProblemCode, string, string][] = [
  [
    /ENOTFOUND|EAI_AGAIN/,
    'unreachable',
    'no such host: the name is not known',
    'Check the address for a typing error.',
  ],
  [
    /ECONNREFUSED/,
    'refused',
    'the connection was refused: nothing listens there',
    'Check the address, and that the service is running.',
  ],
  [
    /CONNECT_TIMEOUT|HEADERS_TIMEOUT|BODY_TIMEOUT|ETIMEDOUT|TimeoutError|EHOSTUNREACH/,
    'time-out',
    'there was no answer in time',
    'Try again later; ask for less at once.',
  ],
  [
    /CERT|SSL|TLS|self.signed/i,
    'tls',
    'its certificate cannot be trusted',
    'Have the service’s certificate mended, or give the certificate of the authority that it is from.',
  ],
  [
    /ECONNRESET|EPIPE|UND_ERR_SOCKET|other side closed|terminated/,
    'unreachable',
    'the connection was cut off',
    'It is tried again by itself.',
  ],
];

/** What a failed call means to a person. */
function problemOfCall(thrown: unknown, doing: string, address: string): ProblemError {
  let inner: unknown = thrown;
  for (let depth = 0; depth < 5 && inner instanceof Error; depth += 1) {
    if (inner instanceof ProblemError) return new ProblemError({ ...inner.problem, doing });
    const { code, name, message, cause } = inner as NodeJS.ErrnoException & { cause?: unknown };
    const errorText = `${code ?? ''} ${name} ${message}`;
    const found = meanings.find(([shape]) => shape.test(errorText));
    if (found)
      return new ProblemError({
        doing: `${doing} at ${address}`,
        code: found[1],
        why: found[2],
        mend: found[3],
      });
    inner = cause;
  }
  const why = thrown instanceof Error ? thrown.message : String(thrown);
  return new ProblemError({
    doing: `${doing} at ${address}`,
    code: 'unreachable',
    why,
    mend: 'Try again later.',
  });
}
