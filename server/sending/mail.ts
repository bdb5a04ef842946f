import type { Transporter } from 'nodemailer';
import { settings } from '../settings.ts';

/* Mail goes through one server, which an administrator names. */

const timeoutMs = 20_000;

export interface Letter {
  readonly to: string;
  readonly subject: string;
  readonly text: string;
  readonly pdf: { readonly name: string; readonly bytes: Uint8Array } | null;
}

export const hasMail = (): boolean => settings().SLATE_MAIL !== '';

let transport: { readonly through: string; readonly sender: Transporter } | null = null;

async function sender(): Promise<Transporter> {
  const { SLATE_MAIL } = settings();
  // Only some installations send mail, and of their processes one.
  const { createTransport } = await import('nodemailer');
  if (transport?.through !== SLATE_MAIL)
    transport = {
      through: SLATE_MAIL,
      sender: createTransport({
        url: SLATE_MAIL,
        connectionTimeout: timeoutMs,
        greetingTimeout: timeoutMs,
        socketTimeout: timeoutMs,
        // What a letter holds is what we put in it: it fetches nothing.
        disableFileAccess: true,
        disableUrlAccess: true,
      } as Parameters<typeof createTransport>[0]),
    };
  return transport.sender;
}

/** Sends a letter. Throws what the server said. */
export async function sendLetter({ to, subject, text, pdf }: Letter): Promise<void> {
  await (await sender()).sendMail({
    from: settings().SLATE_MAIL_FROM,
    to,
    // A line of its own would be a header of its own.
    subject: subject.replace(/[\r\n]+/g, ' '),
    text,
    attachments: pdf
      ? [{ filename: pdf.name, content: Buffer.from(pdf.bytes), contentType: 'application/pdf' }]
      : [],
  });
}
