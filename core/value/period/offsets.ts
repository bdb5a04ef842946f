/** From an instant on (null: since ever), local time of a zone is this many seconds ahead of UTC. */
export interface Offset {
  readonly from: string | null;
  readonly seconds: number;
}

const formats = new Map<string, Intl.DateTimeFormat>();

/** How far a zone's local time is ahead of UTC at an instant, in seconds. */
function secondsAt(at: number, zone: string): number {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-US', { timeZone: zone, timeZoneName: 'longOffset' });
    formats.set(zone, format);
  }
  // “12/31/1899, GMT-03:30:52”; “GMT” alone may stand where they are the same.
  const written = format.format(at);
  const [found, sign, hours, minutes, seconds = '0'] =
    /GMT(?:([+-])(\d\d):(\d\d)(?::(\d\d))?)?$/.exec(written) ?? [];
  if (found === undefined) throw new RangeError(`“${written}” does not end with how far ${zone} is ahead`);
  if (sign === undefined) return 0;
  return (sign === '-' ? -1 : 1) * (Number(hours) * 3600 + Number(minutes) * 60 + Number(seconds));
}

const known = new Map<string, readonly Offset[]>();
const week = 7 * 86_400_000;
/** Instants outside these are taken to have the offset of the nearer end. */
const [first, last] = [Date.UTC(1880, 0, 1), Date.UTC(2100, 0, 1)];

/**
 * The offsets of an IANA zone, oldest first, exact to the second: the changes are found by looking once a week and then
 * halving. No zone is known to change twice within a week.
 */
function allOffsets(zone: string): readonly Offset[] {
  const found = known.get(zone);
  if (found) return found;
  const offsets: Offset[] = [{ from: null, seconds: secondsAt(first, zone) }];
  let before = offsets[0]?.seconds ?? 0;
  for (let at = first; at < last; at += week) {
    const after = secondsAt(at + week, zone);
    if (after === before) continue;
    let [low, high] = [at, at + week];
    while (high - low > 1000) {
      const middle = Math.floor((low + high) / 2000) * 1000;
      if (secondsAt(middle, zone) === before) low = middle;
      else high = middle;
    }
    offsets.push({ from: new Date(high).toISOString(), seconds: after });
    before = after;
  }
  known.set(zone, offsets);
  return offsets;
}

/** The offsets of a zone that instants from `least` to `greatest` (ISO 8601) can have, oldest first. */
export function offsetsOf(zone: string, span?: { least: string; greatest: string }): readonly Offset[] {
  const all = allOffsets(zone);
  if (!span) return all;
  const [low, high] = [Date.parse(span.least), Date.parse(span.greatest)];
  const started = (offset: Offset): number => (offset.from === null ? -Infinity : Date.parse(offset.from));
  const start = all.findLastIndex((offset) => started(offset) <= low);
  return all.slice(Math.max(0, start)).filter((offset, index) => index === 0 || started(offset) <= high);
}
