/** The time zones to choose from, UTC first. */
export const zoneChoices = (zones: readonly string[]): { value: string; words: string }[] =>
  zones.map((zone) => ({ value: zone, words: zone.replaceAll('_', ' ') }));
