import { setMaxListeners } from 'node:events';
import { data, type LoaderFunctionArgs, redirect } from 'react-router';
import { ownDatabaseProblem } from '#core/value/problem/problem.ts';
import { capital } from '#core/words/capital.ts';
import { isId } from './ids.ts';
import { may, type Subject, type Verb } from './permission.ts';
import { basePath } from './settings.ts';
import { deskOfDashboard } from './store/dashboards.ts';
import { findDesk } from './store/desks.ts';
import { type From, personOf, type User } from './store/people.ts';

/** What a loader or action asks of the person who calls it: what they want to do, and to what of those that the address names. */
export interface Need {
  readonly verb: Verb;
  readonly on: 'anywhere' | 'the desk' | 'the dashboard' | 'the installation' | 'oneself';
}

export const to = (verb: Verb, on: Need['on'] = 'anywhere'): Need => ({ verb, on });

/** For the pages of those who have not signed in: a test knows them by this. */
export const openToAll = <Run extends object>(run: Run) => Object.assign(run, { need: 'nothing' as const });

/** One request of the web server, shared by all the loaders that it sets off. */
export interface RequestContext {
  readonly nonce: string;
  readonly token: string | null;
  /** What a browser that has signed in before says of itself. */
  readonly place: string | null;
  /** As whom the browser looks at desks, by the person’s id; null: as themself. */
  readonly seeAs: string | null;
  /** The network address that the request came from. */
  readonly address: string;
  person?: Promise<User | null>;
}

declare module 'react-router' {
  interface AppLoadContext extends RequestContext {}
}

/** Who is asking; looked up once for a request. */
export function person(context: RequestContext): Promise<User | null> {
  context.person ??= context.token === null ? Promise.resolve(null) : personOf(context.token);
  return context.person;
}

/** Where a request that signs somebody in comes from. */
export const fromOf = (request: Request, { address }: RequestContext, place: string): From => ({
  place,
  address,
  browser: request.headers.get('user-agent') ?? '',
});

export type Signed<Args> = Args & { readonly user: User };

/** Told to a page whose session has ended: it asks for the password in place, and nothing typed is lost. */
export interface SignedOut {
  readonly signedOut: true;
}

/** A thrown answer for those who may not. */
export const refusal = (verb: Verb) =>
  data(
    {
      title: 'This is not for your role',
      why:
        verb === 'build'
          ? 'Sources, data sets and drafts are for analysts and administrators.'
          : verb === 'act'
            ? 'Changes to records are for supervisors, analysts and administrators.'
            : verb === 'read'
              ? 'You have no role on any desk yet. Ask an administrator for one.'
              : 'Only administrators may do this.',
    },
    { status: 403 },
  );

/** What an address is about; null where there is no such thing. */
async function subjectOf(
  on: Need['on'],
  params: Readonly<Record<string, string | undefined>>,
): Promise<Subject | null> {
  switch (on) {
    case 'anywhere':
      return on;
    case 'the installation':
      return 'installation';
    case 'oneself':
      return on;
    case 'the desk': {
      const desk = await findDesk(params.desk ?? '');
      return desk && { desk: desk.id };
    }
    case 'the dashboard': {
      const desk = isId(params.id) ? await deskOfDashboard(params.id) : null;
      return desk === null ? null : { desk };
    }
  }
}

/** Whether somebody may. */
export async function isPermitted(
  user: User,
  { verb, on }: Need,
  params: Readonly<Record<string, string | undefined>>,
): Promise<boolean> {
  const subject = await subjectOf(on, params);
  return subject !== null && may(user, verb, subject);
}

/** Throws unless somebody may. What they may not even read answers as if it did not exist. */
export async function permit(
  user: User,
  { verb, on }: Need,
  params: Readonly<Record<string, string | undefined>>,
): Promise<void> {
  const subject = await subjectOf(on, params);
  if (subject !== null && may(user, verb, subject)) return;
  if (!may(user, verb, 'anywhere')) throw refusal(verb);
  throw subject !== null && may(user, 'read', subject)
    ? refusal(verb)
    : notFound(on === 'the desk' ? 'desk' : 'dashboard');
}

/** What was answered or thrown, except for one thing: that our own database is away or full is said as such, since it passes. */
async function reachable<Result>(answer: () => Promise<Result>): Promise<Result> {
  try {
    return await answer();
  } catch (thrown) {
    const problem = thrown instanceof Error ? ownDatabaseProblem(thrown, 'showing the page') : null;
    if (!problem) throw thrown;
    const why = `${capital(problem.why)}. ${problem.mend}`;
    throw data({ title: 'This page has to wait', why }, { status: 503 });
  }
}

/** Whatever is begun for a request listens for its end, however much that is. */
function signed<Args extends LoaderFunctionArgs>(args: Args, user: User): Signed<Args> {
  setMaxListeners(0, args.request.signal);
  return { ...args, user };
}

/** Every loader and action goes through one of these two; a test enumerates the routes to hold them to it. */
export function guardedLoader<Args extends LoaderFunctionArgs, Result>(
  need: Need,
  run: (args: Signed<Args>) => Promise<Result> | Result,
) {
  const loader = (args: Args): Promise<Result> =>
    reachable(async () => {
      const user = await person(args.context);
      if (!user) {
        const { pathname, search } = new URL(args.request.url);
        const page = pathname.slice(basePath().length).replace(/\.data$/, '');
        throw redirect(`/sign-in?to=${encodeURIComponent(page + search)}`);
      }
      await permit(user, need, args.params);
      return run(signed(args, user));
    });
  return Object.assign(loader, { need });
}

export function guardedAction<Args extends LoaderFunctionArgs, Result>(
  need: Need,
  run: (args: Signed<Args>) => Promise<Result> | Result,
) {
  const action = (args: Args): Promise<Result | ReturnType<typeof data<SignedOut>>> =>
    reachable(async () => {
      const user = await person(args.context);
      if (!user) return data({ signedOut: true as const }, { status: 401 });
      await permit(user, need, args.params);
      return run(signed(args, user));
    });
  return Object.assign(action, { need });
}

/** For routes that are only ever sent to. */
export const postOnlyTo = (need: Need) =>
  guardedLoader<LoaderFunctionArgs, never>(need, () => {
    throw data(
      { title: 'There is nothing to see here', why: 'This address only takes what pages send to it.' },
      { status: 405 },
    );
  });
export const postOnly = postOnlyTo(to('build'));

/** A thrown answer for what is not there. */
export const notFound = (what: string) =>
  data(
    {
      title: `There is no such ${what}`,
      why: 'It may have been removed, or the address has a typing error.',
    },
    { status: 404 },
  );

/** An id from an address; what is no id names nothing. */
export function idParam(value: string | undefined, what: string): string {
  if (!isId(value)) throw notFound(what);
  return value;
}
