import { Router } from 'express';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import type { Mischief } from './mischief.ts';

/* A mail server that delivers nothing: what it is given can be looked at. */

interface Letter {
  readonly at: string;
  readonly to: readonly string[];
  readonly from: string;
  readonly subject: string;
  readonly text: string;
  readonly attachments: readonly { readonly name: string; readonly type: string; readonly content: Buffer }[];
}

const mostKept = 200;
const largestLetter = 50_000_000;

const escaped = (text: string): string => text.replace(/[&<>"']/g, (mark) => `&#${mark.charCodeAt(0)};`);

const listed = ({ at, to, from, subject, text, attachments }: Letter, number: number): string =>
  `<article><h2>${escaped(subject)}</h2><p>${escaped(at)}, from ${escaped(from)} to ${escaped(to.join(', '))}</p><pre>${escaped(text)}</pre>${attachments
    .map((each, index) => `<p><a href="/mail/${number}/${index}">${escaped(each.name)}</a></p>`)
    .join('')}</article>`;

/** Takes mail in on a port of loopback, and shows it on a page: the latest first, as JSON where that is asked for. */
export async function takeMail(
  port: number,
  mischief: Mischief,
): Promise<{ readonly page: Router; readonly stop: () => Promise<void> }> {
  const letters: Letter[] = [];
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    size: largestLetter,
    onMailFrom: (_, __, done) => done(mischief.next('mail') ? new Error('no mail is taken just now') : null),
    onData: (stream, session, done) => {
      simpleParser(stream)
        .then((letter) => {
          letters.unshift({
            at: new Date().toISOString(),
            to: session.envelope.rcptTo.map(({ address }) => address),
            from: letter.from?.text ?? '',
            subject: letter.subject ?? '',
            text: letter.text ?? '',
            attachments: letter.attachments.map(({ filename = 'file', contentType, content }) => ({
              name: filename,
              type: contentType,
              content,
            })),
          });
          letters.splice(mostKept);
          done();
        })
        .catch((error: Error) => done(error));
    },
  });
  server.on('error', () => undefined);
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', () => resolve()));
  const page = Router();
  page.get('/', (request, response) => {
    if (request.accepts(['html', 'json']) === 'json')
      response.json(
        letters.map(({ attachments, ...rest }) => ({
          ...rest,
          attachments: attachments.map(({ name, type, content }) => ({ name, type, bytes: content.length })),
        })),
      );
    else
      response.send(
        `<!doctype html><meta charset="utf-8"><title>Mail</title><h1>Mail that was sent</h1>${letters.map(listed).join('<hr>') || '<p>None yet.</p>'}`,
      );
  });
  page.get('/:letter/:attachment', (request, response) => {
    const found = letters[Number(request.params.letter)]?.attachments[Number(request.params.attachment)];
    if (!found) return void response.status(404).send('There is none.');
    response.type(found.type).send(found.content);
  });
  return { page, stop: () => new Promise((resolve) => server.close(() => resolve())) };
}
