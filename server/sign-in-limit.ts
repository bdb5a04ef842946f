/* Slows down guessing: after five failures with one address within a minute, none is tried until the minute is over. */

const most = 5;
const windowMs = 60_000;
const failures = new Map<string, number[]>();

const recent = (email: string, now: number): number[] =>
  (failures.get(email.toLowerCase()) ?? []).filter((at) => now - at < windowMs);

export const mayTry = (email: string, now: number): boolean => recent(email, now).length < most;

export function noteFailure(email: string, now: number): void {
  if (failures.size > 10_000) failures.clear();
  failures.set(email.toLowerCase(), [...recent(email, now), now]);
}
