import { type Request, Router } from 'express';
import { terminals } from '#demo/line.ts';
import { seeded } from '#demo/random.ts';
import type { Mischief } from './mischief.ts';

/* The tide and weather service: stations with nested lists, observations in pages, warnings. A key in a header; a daily allowance. */

const stations = terminals.map(({ code, name }, index) => ({
  id: `ST-${String(index + 1).padStart(2, '0')}`,
  name,
  terminal: code,
  position: { latitude: 58.2 + index * 0.11, longitude: -3.4 - index * 0.17 },
  sensors: [
    { kind: 'water', unit: 'm' },
    { kind: 'wind', unit: 'm/s' },
    ...(index % 2 === 0 ? [{ kind: 'swell', unit: 'm' }] : []),
  ],
}));

const minutes = 10;
const stepMs = minutes * 60_000;

/** What a station measured at a step of ten minutes since 1970; the same every time it is asked. */
export function observationAt(station: number, step: number) {
  const random = seeded(station * 7_919 + step);
  const at = new Date(step * stepMs);
  const tide = 2.1 + 1.6 * Math.sin((step / 74.5) * 2 * Math.PI + station);
  return {
    id: `${stations[station]?.id}-${step}`,
    station: { id: stations[station]?.id, name: stations[station]?.name },
    observed_at: at.toISOString(),
    level_m: (tide + random.next() * 0.08).toFixed(3),
    wind: { speed_ms: Number((3 + random.next() * 14).toFixed(1)), from_degrees: random.between(0, 359) },
    readings: [
      { kind: 'water_temperature', value: Number((7 + random.next() * 4).toFixed(2)) },
      { kind: 'air_pressure', value: 980 + random.between(0, 50) },
    ],
    quality: random.chance(0.02) ? 'suspect' : 'good',
  };
}

export interface TideOptions {
  readonly key: string;
  readonly perDay: number;
  readonly now: () => Date;
  readonly mischief: Mischief;
}

export function tideService({ key, perDay, now, mischief }: TideOptions): Router {
  const router = Router();
  let [day, spent] = ['', 0];
  router.use((request, response, next) => {
    if (request.get('x-tide-key') !== key) {
      response.status(401).json({ error: 'the header X-Tide-Key is missing or wrong' });
      return;
    }
    const today = now().toISOString().slice(0, 10);
    if (today !== day) [day, spent] = [today, 0];
    spent += 1;
    const midnight = Date.parse(`${today}T00:00:00Z`) + 86_400_000;
    const reset = Math.ceil((midnight - now().getTime()) / 1000);
    response.set({
      'RateLimit-Limit': String(perDay),
      'RateLimit-Remaining': String(Math.max(0, perDay - spent)),
      'RateLimit-Reset': String(reset),
    });
    if (spent > perDay) {
      response
        .set('Retry-After', String(reset))
        .status(429)
        .json({ error: 'the allowance of this day is used up' });
      return;
    }
    next();
  });
  router.use(mischief.handler('tide'));
  router.get('/stations', (_, response) => {
    response.json({ stations, count: stations.length });
  });
  router.get('/observations', (request, response) => {
    const number = (name: string, usual: number): number =>
      Math.max(0, Math.trunc(Number(request.query[name] ?? usual)) || usual);
    const size = Math.min(500, number('per_page', 100));
    const page = Math.max(1, number('page', 1));
    const hours = Math.min(24 * 31, number('hours', 48));
    const last = Math.floor(now().getTime() / stepMs);
    // Only what was observed at a moment or after it, for those who have the rest.
    const since = Math.ceil((Date.parse(String(request.query.since ?? '')) || 0) / stepMs);
    const steps = Math.max(0, Math.min(Math.floor((hours * 60) / minutes), last - since + 1));
    const wanted = stations.flatMap((station, index) => (matches(request, station.id) ? [index] : []));
    const total = steps * wanted.length;
    const items = [];
    for (let at = (page - 1) * size; at < Math.min(total, page * size); at += 1)
      items.push(observationAt(wanted[at % wanted.length] ?? 0, last - Math.floor(at / wanted.length)));
    response.json({
      meta: { page, per_page: size, total_pages: Math.ceil(total / size), total },
      data: { items },
    });
  });
  router.get('/warnings', (_, response) => {
    const random = seeded(Math.floor(now().getTime() / 3_600_000));
    response.json({
      warnings: stations
        .filter(() => random.chance(0.3))
        .map(({ id, name }) => ({
          station: id,
          area: name,
          kind: random.pick(['gale', 'swell', 'fog']),
          level: random.between(1, 3),
          issued_at: now().toISOString(),
          text: `Care is needed around ${name}.`,
        })),
    });
  });
  return router;
}

const matches = (request: Request, id: string): boolean =>
  request.query.station === undefined || request.query.station === id;
