import type { Configuration } from 'openid-client';
import { z } from 'zod';
import { settings } from '../settings.ts';
import type { Claims } from '../store/provider-people.ts';

/* Signing in elsewhere: OpenID Connect Core 1.0, the authorization code flow with a proof key (RFC 7636). */

/** What people call where they sign in instead of here; null where they do not. */
export const providerName = (): string | null => {
  const { SLATE_OIDC, SLATE_OIDC_NAME } = settings();
  return SLATE_OIDC === '' ? null : SLATE_OIDC_NAME;
};

/** What has to be the same when somebody comes back, and where they were going. */
export const Going = z.object({ state: z.string(), nonce: z.string(), verifier: z.string(), to: z.string() });
export type Going = z.infer<typeof Going>;

/** Why the provider could not be asked or believed, without what it was asked or said. */
export const whyOf = (thrown: unknown): string => (thrown instanceof Error ? thrown.message : String(thrown));

const waitSeconds = 10;
const donePath = '/sign-in/provider/done';

/** Read by those processes alone that somebody signs in at. */
const library = () => import('openid-client');

let found: Promise<Configuration> | null = null;

async function discover(): Promise<Configuration> {
  const { allowInsecureRequests, discovery } = await library();
  const { SLATE_OIDC, SLATE_OIDC_CLIENT, SLATE_OIDC_SECRET } = settings();
  const issuer = new URL(SLATE_OIDC);
  // On this machine nobody listens in.
  const isOwn = issuer.protocol === 'http:' && ['127.0.0.1', '[::1]', 'localhost'].includes(issuer.hostname);
  return discovery(issuer, SLATE_OIDC_CLIENT, SLATE_OIDC_SECRET || undefined, undefined, {
    timeout: waitSeconds,
    ...(isOwn ? { execute: [allowInsecureRequests] } : {}),
  });
}

/** What the provider says of itself, asked once; again where it could not be asked. */
function configuration(): Promise<Configuration> {
  found ??= discover().catch((thrown: unknown) => {
    found = null;
    throw thrown;
  });
  return found;
}

/** Where somebody has to go to sign in, and what has to come back. `own`: where we are reached. Throws where the provider cannot be asked. */
export async function goToProvider(own: string, to: string): Promise<{ address: string; going: Going }> {
  const {
    buildAuthorizationUrl,
    calculatePKCECodeChallenge,
    randomNonce,
    randomPKCECodeVerifier,
    randomState,
  } = await library();
  const going = { state: randomState(), nonce: randomNonce(), verifier: randomPKCECodeVerifier(), to };
  const address = buildAuthorizationUrl(await configuration(), {
    redirect_uri: new URL(donePath, own).href,
    scope: 'openid email profile',
    state: going.state,
    nonce: going.nonce,
    code_challenge: await calculatePKCECodeChallenge(going.verifier),
    code_challenge_method: 'S256',
  });
  return { address: address.href, going };
}

const Groups = z.array(z.string().max(200)).max(1000);

/** What is said of somebody who comes back. Throws where that is not what they went with, or cannot be believed. */
export async function backFromProvider(own: string, search: string, going: Going): Promise<Claims> {
  const { authorizationCodeGrant } = await library();
  const answer = await authorizationCodeGrant(await configuration(), new URL(`${donePath}${search}`, own), {
    expectedState: going.state,
    expectedNonce: going.nonce,
    pkceCodeVerifier: going.verifier,
    idTokenExpected: true,
  });
  const claims = answer.claims();
  if (!claims) throw new Error('the provider says nothing of whoever has signed in');
  const { iss, sub, email, email_verified: isVerified, name } = claims;
  return {
    subject: `${iss} ${sub}`,
    email: typeof email === 'string' && z.email().safeParse(email).success ? email : null,
    isVerified: isVerified === true,
    name: typeof name === 'string' ? name.slice(0, 200) : null,
    groups: Groups.safeParse(claims[settings().SLATE_OIDC_GROUPS]).data ?? [],
  };
}
