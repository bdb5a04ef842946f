import { dayOf, shiftDay } from '#core/value/period/period.ts';
import { crewSigningIn, seed, vessels, zone } from './line.ts';
import { seeded } from './random.ts';

export interface WorkOrder {
  id: number;
  vesselId: number;
  title: string;
  priority: 'low' | 'normal' | 'high' | 'urgent';
  status: 'open' | 'planned' | 'in hand' | 'done' | 'deferred';
  openedAt: string;
  dueOn: string;
  doneAt: string | null;
  assignedTo: number | null;
  /** Hours, kept as text in the source, and not always a number. */
  estimate: string | null;
  cost: string | null;
  /** Why it was put off, in somebody's own words. */
  deferredBecause: string | null;
}

const reasons = [
  'The part is on order.',
  'No berth free for the work.',
  'The yard is full until the new month.',
  'Waits for the spring tide.',
] as const;

const jobs = [
  'Replace mooring line',
  'Grease ramp hinges',
  'Service bow thruster',
  'Inspect life rafts',
  'Mend galley extractor',
  'Calibrate echo sounder',
  'Repaint car deck markings',
  'Change generator filters',
  'Test fire doors',
  'Overhaul anchor windlass',
  'Replace saloon lamps',
  'Check hull anodes',
] as const;

/** Every ninth order is for one of those who sign in, in turn. */
const givenTo = (index: number, other: number | null): number | null =>
  index % 9 === 0 ? (crewSigningIn[(index / 9) % crewSigningIn.length] ?? other) : other;

/** About a thousand orders over eighteen months, as they stand at a moment. */
export function workOrdersAt(now: Date): WorkOrder[] {
  const random = seeded(seed + 5);
  const today = dayOf(now, zone);
  return Array.from({ length: 1040 }, (_, index) => {
    const age = Math.floor(550 * random.next() ** 1.6);
    const opened = now.getTime() - age * 86_400_000 - random.between(0, 80_000) * 1000;
    const vessel = vessels[random.between(0, vessels.length - 1)] ?? vessels[0];
    const dueOn = shiftDay(dayOf(new Date(opened), zone), 'day', random.between(3, 45));
    const finished = random.chance(dueOn < today ? 0.955 : 0.35);
    const done = opened + random.between(1, Math.max(1, age)) * 86_400_000;
    const isDone = finished && done < now.getTime();
    const order = {
      id: 7001 + index,
      vesselId: vessel.id,
      title: jobs[random.between(0, jobs.length - 1)] ?? jobs[0],
      priority: random.chance(0.5)
        ? 'normal'
        : random.chance(0.45)
          ? 'low'
          : random.chance(0.7)
            ? 'high'
            : 'urgent',
      status: isDone ? 'done' : random.pick(['open', 'open', 'planned', 'in hand', 'deferred']),
      openedAt: new Date(opened).toISOString(),
      dueOn,
      doneAt: isDone ? new Date(done).toISOString() : null,
      assignedTo: givenTo(index, random.chance(0.8) ? random.between(1, 60) : null),
      estimate: random.chance(0.05) ? 'n/a' : random.chance(0.05) ? null : String(random.between(1, 40) / 2),
      cost: isDone ? (random.between(4_000, 320_000) / 100).toFixed(2) : null,
    } satisfies Omit<WorkOrder, 'deferredBecause'>;
    const reason = reasons[index % reasons.length] ?? null;
    return { ...order, deferredBecause: order.status === 'deferred' ? reason : null };
  });
}
