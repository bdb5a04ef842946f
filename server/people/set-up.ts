import { randomInt, timingSafeEqual } from 'node:crypto';
import { z } from 'zod';
import { isZone } from '#core/value/period/zone.ts';
import { settings } from '../settings.ts';
import { slugOf } from '../store/desks.ts';
import { NewPassword } from '../store/passwords.ts';
import { addFirst, hasPeople } from '../store/people.ts';

/* An installation that nobody can sign in to yet is given its first administrator and its first desk, by whoever has the code that stands on its console. */

/** Without letters and figures that are taken for each other. */
const letters = 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789';

/** A code that is good until the first person is there: 60 bits. */
export const newCode = (): string =>
  Array.from({ length: 3 }, () =>
    Array.from({ length: 4 }, () => letters[randomInt(letters.length)]).join(''),
  ).join('-');

export const FirstPerson = z.object({
  code: z.string().max(100),
  name: z.string().trim().min(1, 'A name is needed.').max(200),
  email: z.email('This is not an e-mail address.').max(320),
  password: NewPassword,
  desk: z.string().trim().min(1, 'A name is needed.').max(100),
  zone: z.string().refine(isZone, 'There is no such time zone.'),
});
export type FirstPerson = z.infer<typeof FirstPerson>;

let isDone = false;

/** Whether anybody can sign in; once so, it stays so. */
export async function isSetUp(): Promise<boolean> {
  isDone ||= await hasPeople();
  return isDone;
}

const plain = (code: string): Buffer => Buffer.from(code.toUpperCase().replace(/[^A-Z0-9]/g, ''));

/** Whether it is the code that stands on the console; none is where there is none. */
export function isCode(said: string): boolean {
  const [code, given] = [plain(settings().SLATE_SETUP_CODE), plain(said)];
  return code.length > 0 && given.length === code.length && timingSafeEqual(code, given);
}

/** Makes the first administrator and the first desk. False where somebody was quicker. */
export const setUp = ({ name, email, password, desk, zone }: FirstPerson): Promise<boolean> =>
  addFirst({ name, email, password }, { name: desk, slug: slugOf(desk), zone });
