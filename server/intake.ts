import express, { type Request, type Response, Router } from 'express';
import { hashOfKey } from '#sources/intake/key.ts';
import { readLines, readOtlp, type TakenIn } from '#sources/intake/otlp.ts';
import { askDueFollowers } from './store/due.ts';
import { sourceOfKey, storeBatch } from './store/intake.ts';

/*
 * Where records are sent to us: OTLP/HTTP logs in JSON at the protocol's own path, and NDJSON. Whoever sends has a key of
 * the source's own; there is no cookie here, and nothing can be read.
 */

/** Bytes of one request, unpacked. */
const mostBytes = 16_000_000;

/** OTLP's errors are a google.rpc.Status, which has a message. */
const refuse = (response: Response, status: number, message: string): void => {
  response.status(status).json({ message });
};

async function sourceOf(request: Request): Promise<string | null> {
  const [, key = ''] = /^Bearer\s+(\S{16,200})$/i.exec(request.get('authorization') ?? '') ?? [];
  return key ? sourceOfKey(hashOfKey(key)) : null;
}

type Taken = { ok: true; taken: TakenIn } | { ok: false; status: number; message: string };

function readText(kind: 'otlp' | 'lines', text: string): Taken {
  if (kind === 'lines') return { ok: true, taken: readLines(text) };
  try {
    const taken = readOtlp(JSON.parse(text));
    return taken
      ? { ok: true, taken }
      : {
          ok: false,
          status: 400,
          message: 'this is not an OTLP logs request: resourceLogs is not as the protocol has it',
        };
  } catch (thrown) {
    return {
      ok: false,
      status: 400,
      message: `this is not JSON: ${thrown instanceof Error ? thrown.message : thrown}`,
    };
  }
}

async function take(kind: 'otlp' | 'lines', request: Request, response: Response): Promise<void> {
  const source = await sourceOf(request);
  if (source === null) {
    response.set('WWW-Authenticate', 'Bearer');
    return refuse(response, 401, 'the key is missing or not one of an intake');
  }
  const type = request.get('content-type') ?? '';
  if (kind === 'otlp' && !/^application\/json\b/i.test(type))
    return refuse(response, 415, 'logs are taken in OTLP’s JSON encoding (application/json)');
  const read = readText(kind, Buffer.isBuffer(request.body) ? request.body.toString('utf8') : '');
  if (!read.ok) return refuse(response, read.status, read.message);
  const { records, rejected } = read.taken;
  // A batch that is sent again, because its sender never heard that it had arrived, is taken for what it is.
  if (records.length > 0 && (await storeBatch(source, records))) await askDueFollowers(source);
  if (kind === 'otlp')
    response.json(
      rejected.count > 0
        ? { partialSuccess: { rejectedLogRecords: String(rejected.count), errorMessage: rejected.why } }
        : {},
    );
  else response.json({ taken: records.length, notRecords: rejected.count });
}

/** The routes of the intake. They stand before everything that is about people and their browsers. */
export function intakeRoutes(): Router {
  const router = Router();
  const raw = express.raw({ type: () => true, limit: mostBytes });
  const answer = (kind: 'otlp' | 'lines') => (request: Request, response: Response) => {
    take(kind, request, response).catch(() => refuse(response, 503, 'it could not be stored; send it again'));
  };
  router.post('/v1/logs', raw, answer('otlp'));
  router.post('/intake/lines', raw, answer('lines'));
  router.use(
    ['/v1/logs', '/intake/lines'],
    (
      error: { status?: number; type?: string },
      _: Request,
      response: Response,
      next: (error?: unknown) => void,
    ) => {
      if (error?.type === 'entity.too.large')
        refuse(response, 413, `it is more than ${mostBytes / 1e6} MB, unpacked`);
      else if (error)
        refuse(
          response,
          error.status ?? 400,
          'it did not arrive whole, or its packing is broken or not understood',
        );
      else next();
    },
  );
  return router;
}
