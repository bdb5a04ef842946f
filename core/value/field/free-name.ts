/** A name that is not taken: the one wanted, else with the lowest number from 2 on behind it. */
export function freeName(wanted: string, isTaken: (name: string) => boolean, between = '_'): string {
  let name = wanted;
  for (let n = 2; isTaken(name); n += 1) name = `${wanted}${between}${n}`;
  return name;
}
