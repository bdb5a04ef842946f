import { createHash } from 'node:crypto';
import { seeded } from '#demo/random.ts';

/* The records of the stores service, and what its clients have made of them since it was started. */

export type Entity = Record<string, string | number | null>;

const depots: Entity[] = ['Skerryhaven', 'Norrick', 'Fenwold Bay', 'Auldstaithe'].map((Name, index) => ({
  Id: index + 1,
  // Two depots have one code.
  Code: ['SKH', 'NRK', 'FNB', 'NRK'][index] ?? '',
  Name,
}));
const partNames = [
  'Gasket',
  'Impeller',
  'Hawser',
  'Fender',
  'Lamp',
  'Pump seal',
  'Filter',
  'Shackle',
  'Life ring',
  'Valve',
];
const parts: Entity[] = partNames.map((Name, index) => ({
  Id: index + 1,
  Number: `P-${String(index * 37 + 104).padStart(4, '0')}`,
  Name,
  Price: (4.5 + index * 13.37).toFixed(2),
}));
const states = ['open', 'approved', 'delivered', 'refused'] as const;

function requisitions(now: Date): Entity[] {
  return Array.from({ length: 240 }, (_, index) => {
    const random = seeded(index + 11);
    const day = new Date(now.getTime() - random.between(0, 120) * 86_400_000).toISOString().slice(0, 10);
    return {
      Id: index + 1,
      Number: `RQ-${5000 + index}`,
      DepotId: random.between(1, depots.length),
      Vessel: random.pick(['Kittiwake', 'Storm Petrel', 'Guillemot', 'Fulmar', 'Eider']),
      State: random.pick(states),
      RaisedOn: day,
      ChangedAt: `${day}T00:00:00.000Z`,
      Note: random.chance(0.3) ? 'wanted before the next sailing' : null,
    };
  });
}

const lines: Entity[] = Array.from({ length: 720 }, (_, index) => {
  const random = seeded(index + 977);
  return {
    Id: index + 1,
    RequisitionId: 1 + (index % 240),
    PartId: random.between(1, parts.length),
    Quantity: random.between(1, 12),
    UnitPrice: (3 + random.between(0, 9000) / 100).toFixed(2),
  };
});

/** Why the service does not take a change. */
export class Refusal extends Error {
  readonly status: number;
  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

/** What is sent to be added. */
export type Given = { readonly [member: string]: string | number | null | readonly Entity[] } & {
  readonly Lines?: readonly Entity[];
};

/** Members that a client may set, by set. */
const writable: Readonly<Record<string, readonly string[]>> = {
  Requisitions: ['DepotId', 'Vessel', 'State', 'RaisedOn', 'Note'],
  RequisitionLines: ['RequisitionId', 'PartId', 'Quantity', 'UnitPrice'],
};

export class StoresRecords {
  private readonly changed = new Map<string, Entity>();
  private readonly removed = new Set<string>();
  private readonly added = new Map<string, Entity[]>();
  private readonly repeated = new Map<string, Entity>();
  private readonly now: () => Date;

  constructor(now: () => Date) {
    this.now = now;
  }

  /** The records of a set; null where there is no such set. */
  of(set: string): Entity[] | null {
    const record = this.asMade(set);
    if (!record) return null;
    return [...record, ...(this.added.get(set) ?? [])]
      .filter(({ Id }) => !this.removed.has(`${set} ${Id}`))
      .map((entity) => ({ ...entity, ...this.changed.get(`${set} ${entity.Id}`) }));
  }

  private asMade(set: string): Entity[] | null {
    switch (set) {
      case 'Depots':
        return depots;
      case 'Parts':
        return parts;
      case 'Requisitions':
        return requisitions(this.now());
      case 'RequisitionLines':
        return lines;
      default:
        return null;
    }
  }

  find(set: string, id: number): Entity | null {
    return this.of(set)?.find(({ Id }) => Id === id) ?? null;
  }

  /** What a state of a record is called (RFC 9110, section 8.8.3). */
  tagOf(entity: Entity): string {
    return `W/"${createHash('sha256').update(JSON.stringify(entity)).digest('hex').slice(0, 16)}"`;
  }

  change(set: string, id: number, values: Entity): void {
    this.check(set, values);
    const stamp: Entity = set === 'Requisitions' ? { ChangedAt: this.now().toISOString() } : {};
    this.changed.set(`${set} ${id}`, { ...this.changed.get(`${set} ${id}`), ...values, ...stamp });
  }

  /** The lines of a requisition. */
  linesOf({ Id }: Entity): Entity[] {
    return this.of('RequisitionLines')?.filter((line) => line.RequisitionId === Id) ?? [];
  }

  /**
   * Adds a record, a requisition with its lines or none of it; one that was added under the same name before is that one (OASIS Repeatable
   * Requests 1.0).
   */
  add(set: string, given: Given, once: string | undefined): Entity {
    const known = once === undefined ? undefined : this.repeated.get(once);
    if (known) return known;
    const { Lines = [], ...rest } = given;
    const values = rest as Entity;
    if (Lines.length > 0 && set !== 'Requisitions') throw new Refusal(400, 'Lines cannot be set');
    this.check(set, values);
    for (const line of Lines) this.check('RequisitionLines', line);
    const all = [...(this.asMade(set) ?? []), ...(this.added.get(set) ?? [])];
    const Id = 1 + Math.max(...all.map((each) => Number(each.Id)));
    const at = this.now().toISOString();
    const entity: Entity =
      set === 'Requisitions'
        ? {
            Id,
            Number: `RQ-${4999 + Id}`,
            DepotId: null,
            Vessel: null,
            State: 'open',
            RaisedOn: at.slice(0, 10),
            ChangedAt: at,
            Note: null,
            ...values,
          }
        : { Id, RequisitionId: null, PartId: null, Quantity: 1, UnitPrice: null, ...values };
    this.added.set(set, [...(this.added.get(set) ?? []), entity]);
    for (const line of Lines) this.add('RequisitionLines', { ...line, RequisitionId: Id }, undefined);
    if (once !== undefined) this.repeated.set(once, entity);
    return entity;
  }

  remove(set: string, id: number): void {
    const hasLines =
      set === 'Requisitions' && this.of('RequisitionLines')?.some((line) => line.RequisitionId === id);
    if (hasLines) throw new Refusal(409, 'it has lines: remove those first');
    this.removed.add(`${set} ${id}`);
  }

  private check(set: string, values: Entity): void {
    const other = Object.keys(values).find((name) => !writable[set]?.includes(name));
    if (other !== undefined) throw new Refusal(400, `${other} cannot be set`);
    const { State, Quantity } = values;
    if (State !== undefined && !states.some((state) => state === State))
      throw new Refusal(400, `${State} is no state of a requisition`);
    if (Quantity !== undefined && !(Number(Quantity) >= 1))
      throw new Refusal(400, 'a line is for one at least');
  }
}
