import { X509Certificate } from 'node:crypto';
import { rootCertificates } from 'node:tls';

/** How a connection is encrypted; `verify` also checks the server's certificate and name. */
export interface Tls {
  readonly tls: 'off' | 'require' | 'verify';
  /** Certificates (PEM) of an authority of one's own, which is trusted beside those that everybody trusts. */
  readonly authority?: string | undefined;
}

const pem = /-----BEGIN CERTIFICATE-----[\s\S]+?-----END CERTIFICATE-----/g;

/** What is wrong with a text that should hold certificates in PEM; null where all can be read. */
export function authorityProblem(text: string): string | null {
  const found = text.match(pem) ?? [];
  const rest = text.replace(pem, '').trim();
  if (found.length === 0)
    return 'this is no certificate in PEM, which begins with -----BEGIN CERTIFICATE-----';
  if (rest !== '')
    return 'there is something else beside the certificates: take it out, above all a private key';
  try {
    for (const each of found) new X509Certificate(each);
    return null;
  } catch {
    return 'a certificate in it cannot be read';
  }
}

/** The authorities that are trusted; nothing said of them where those are the usual ones. */
export const trustOptions = (authority: string | undefined): { ca?: string[] } =>
  authority ? { ca: [...rootCertificates, ...(authority.match(pem) ?? [])] } : {};

/** The options of a database client; false is no encryption. */
export const tlsOptions = ({
  tls,
  authority,
}: Tls): false | { rejectUnauthorized: boolean; ca?: string[] } =>
  tls === 'off' ? false : { rejectUnauthorized: tls === 'verify', ...trustOptions(authority) };
