import { counted } from '#core/value/format/counted.ts';

/** A length of time in its two largest units: "45 s", "12 min", "2 h 5 min", "3 days". Seconds; rounded. */
export function durationWords(seconds: number): string {
  const exact = Math.round(Math.abs(seconds));
  if (exact < 60) return `${exact} s`;
  // To the smaller of the two units that are said.
  const unit = exact < 600 ? 1 : exact < 86_400 ? 60 : 3600;
  const whole = Math.round(exact / unit) * unit;
  const [minutes, hours, days] = [
    Math.floor(whole / 60) % 60,
    Math.floor(whole / 3600) % 24,
    Math.floor(whole / 86_400),
  ];
  if (days > 0) return `${counted(days, 'day')}${hours > 0 ? ` ${hours} h` : ''}`;
  if (hours > 0) return `${hours} h${minutes > 0 ? ` ${minutes} min` : ''}`;
  const rest = whole % 60;
  return `${minutes} min${rest > 0 && minutes < 10 ? ` ${rest} s` : ''}`;
}
