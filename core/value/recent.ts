/**
 * Puts a value into a map that holds the ones used latest, in the order of their use, and takes out those beyond this many.
 * Returns what was taken out, the one used longest ago first.
 */
export function putRecent<K, V>(map: Map<K, V>, key: K, value: V, most: number): [K, V][] {
  map.delete(key);
  map.set(key, value);
  const gone: [K, V][] = [];
  for (const oldest of map) {
    if (map.size <= most) break;
    map.delete(oldest[0]);
    gone.push(oldest);
  }
  return gone;
}
