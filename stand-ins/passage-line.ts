import { terminals } from '#demo/line.ts';
import { seeded } from '#demo/random.ts';

/** Passages come one after the other at a steady pace, and each leaves its traces in several systems. */
export interface Passage {
  readonly passage_ref: string;
  readonly sailing: string;
  readonly terminal: string;
  readonly vehicle: boolean;
  readonly fare: string;
  readonly booked_at: string;
  readonly state: 'boarded' | 'booked' | 'refused' | 'cancelled';
  readonly traveller: { readonly name: string; readonly tickets: number };
}

export interface Scan {
  readonly at: string;
  readonly gate: string;
  readonly passage_ref: string;
  readonly outcome: 'passed' | 'refused' | 'retry';
  readonly took_ms: number;
  readonly scanner_clock: string;
}

const stepMs = 20_000;
const letters = 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789';
const names = [
  'Isla Heddle',
  'Magnus Brae',
  'Rona Drever',
  'Erlend Sinclaw',
  'Effie Mouatt',
  'Torquil Foubister',
] as const;

/** The reference of the passage of a step, always the same. */
export function referenceOf(step: number): string {
  const random = seeded(step);
  return `PSG-${Array.from({ length: 6 }, () => letters.charAt(random.between(0, letters.length - 1))).join('')}`;
}

/** The gate whose clock is wrong: three hours ahead. */
export const wrongGate = 'NRK-2';
const wrongMs = 3 * 3_600_000;

export class PassageLine {
  constructor(private readonly hours = 36) {}

  /** The steps of a stretch of time, the oldest first. */
  steps(from: Date, to: Date): number[] {
    const first = Math.ceil(from.getTime() / stepMs);
    const last = Math.floor(to.getTime() / stepMs);
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, index) => first + index);
  }

  passageOf(step: number): Passage {
    const random = seeded(step * 31 + 7);
    const terminal = terminals[random.between(0, terminals.length - 1)]?.code ?? 'SKH';
    const refused = random.chance(0.04);
    return {
      passage_ref: referenceOf(step),
      sailing: `SK-${20_000 + (Math.floor(step / 120) % 5000)}`,
      terminal,
      vehicle: random.chance(0.35),
      fare: (8 + random.between(0, 5400) / 100).toFixed(2),
      booked_at: new Date(step * stepMs).toISOString(),
      state: refused ? 'refused' : random.chance(0.9) ? 'boarded' : 'booked',
      traveller: { name: random.pick(names), tickets: random.between(1, 5) },
    };
  }

  /** The latest passages, the newest first. */
  passages(now: Date, most = 600): Passage[] {
    const steps = this.steps(new Date(now.getTime() - this.hours * 3_600_000), now).slice(-most);
    return steps.reverse().map((step) => this.passageOf(step));
  }

  /** What the gate scanner wrote of a passage, twenty minutes after it was booked. */
  scanOf(step: number): Scan {
    const random = seeded(step * 17 + 3);
    const { terminal, passage_ref, state } = this.passageOf(step);
    const at = step * stepMs + 20 * 60_000;
    const gate = `${terminal}-${random.between(1, 3)}`;
    const clockAt = gate === wrongGate ? at + wrongMs : at;
    return {
      at: new Date(at).toISOString(),
      gate,
      passage_ref,
      outcome: state === 'refused' ? 'refused' : random.chance(0.05) ? 'retry' : 'passed',
      took_ms: random.between(180, 1900),
      scanner_clock: new Date(clockAt).toISOString(),
    };
  }

  /** A line of the web server's access log, in Combined Log Format. */
  accessLine(step: number): string {
    const random = seeded(step * 13 + 5);
    const { passage_ref, state } = this.passageOf(step);
    const at = new Date(step * stepMs);
    const status = state === 'refused' ? 409 : random.chance(0.02) ? 503 : 200;
    return `203.0.113.${random.between(1, 250)} - - [${clfTime(at)}] "POST /passages/${passage_ref} HTTP/1.1" ${status} ${random.between(200, 9000)} "https://book.skerry.example/" "SkerryApp/${random.between(3, 5)}.${random.between(0, 9)} (handheld)"`;
  }

  /** A line of an engine's telemetry, as pairs. */
  telemetryLine(vessel: string, at: Date): string {
    const random = seeded(Math.floor(at.getTime() / 1000) + vessel.length * 101);
    const rpm = random.between(610, 940);
    return `time=${at.toISOString()} vessel="${vessel}" engine=${random.between(1, 2)} rpm=${rpm} oil_c=${(70 + random.next() * 25).toFixed(1)} state=${rpm > 920 ? 'high' : 'normal'}`;
  }

  /** An event of the service, as an OTLP log record. */
  eventOf(step: number): object {
    const { passage_ref, sailing, state } = this.passageOf(step);
    const at = BigInt(step * stepMs + 2_000) * 1_000_000n;
    return {
      timeUnixNano: String(at),
      severityNumber: state === 'refused' ? 13 : 9,
      severityText: state === 'refused' ? 'WARN' : 'INFO',
      body: { stringValue: state === 'refused' ? 'passage refused' : `passage ${state}` },
      attributes: [
        { key: 'passage_ref', value: { stringValue: passage_ref } },
        { key: 'sailing', value: { stringValue: sailing } },
      ],
    };
  }
}

const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** `23/Nov/2026:06:40:00 +0000` */
function clfTime(at: Date): string {
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${two(at.getUTCDate())}/${months[at.getUTCMonth()]}/${at.getUTCFullYear()}:${at.toISOString().slice(11, 19)} +0000`;
}
