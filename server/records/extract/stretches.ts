import { partsOf } from '#core/ask/condition/resolve.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { isPartOf, stretchesOf } from './common.ts';
import { areFew, copyRecords, type Extract, type Wanted } from './extract.ts';
import { Rooms } from './rooms.ts';
import { Tallies, tallyTables } from './tallies.ts';

/*
 * Whoever looks at a page changes one condition after another, and mostly the stretch of time stays. So the records of a stretch
 * stay in memory for a while, and what is asked next is copied out of them, which takes half as long as out of all records.
 */

/** A stretch that nobody has used for this many milliseconds makes room. */
const keptMs = 30_000;

/** A stretch that stays where it is until it is left. */
export interface Used {
  readonly extract: Extract;
  readonly tallies: Tallies;
  readonly leave: () => void;
}

interface Held {
  readonly view: string;
  readonly where: Extract['where'];
  readonly fields: ReadonlySet<string>;
  /** Null: there are too many records, or no room for them. */
  readonly copied: Promise<Pick<Used, 'extract' | 'tallies'> | null>;
  users: number;
  timer?: NodeJS.Timeout;
}

/** The stretches that one engine holds. */
export class Stretches {
  /** The latest used last. */
  private readonly held: Held[] = [];
  private readonly rooms: Rooms;
  private readonly roomsOfTallies: Rooms;

  constructor(private readonly engine: ColumnarDatabase) {
    this.rooms = new Rooms(engine, ['stretch 1', 'stretch 2']);
    this.roomsOfTallies = new Rooms(engine, tallyTables);
  }

  /** A stretch with all that is wanted of a version; copied now if it is not there and `mayCopy`. Null where there is none. */
  async use(view: string, wanted: Wanted, mayCopy: boolean): Promise<Used | null> {
    const held = this.find(view, wanted) ?? (mayCopy ? this.copy(view, wanted) : null);
    if (!held) return null;
    held.users += 1;
    clearTimeout(held.timer);
    this.held.push(...this.held.splice(this.held.indexOf(held), 1));
    const copied = await held.copied;
    if (copied) return { ...copied, leave: () => this.leave(held) };
    held.users -= 1;
    await this.drop(held);
    return null;
  }

  private find(view: string, { where, fields }: Wanted): Held | undefined {
    return this.held.find(
      (held) =>
        held.view === view && fields.every((field) => held.fields.has(field)) && isPartOf(where, held.where),
    );
  }

  private copy(view: string, wanted: Wanted): Held | null {
    const where = stretchesOf(wanted.where);
    if (partsOf(where).length === 0) return null;
    const copied = this.copied({ ...wanted, where }).catch(() => null);
    const fields = new Set(wanted.fields);
    const held = { view, where, fields, copied, users: 0 };
    this.held.push(held);
    return held;
  }

  private async copied(stretch: Wanted): Held['copied'] {
    if (!(await areFew(stretch, this.engine))) return null;
    // Where there is no room for one more, that which was used the longest ago goes.
    const unused = this.held.find(({ users }) => users === 0);
    if (this.rooms.isFull && unused) await this.drop(unused);
    const extract = await copyRecords(stretch, this.rooms, this.engine);
    return extract && { extract, tallies: new Tallies(extract, this.roomsOfTallies, this.engine) };
  }

  private leave(held: Held): void {
    held.users -= 1;
    if (held.users === 0) held.timer = setTimeout(() => void this.drop(held), keptMs).unref();
  }

  private async drop(held: Held): Promise<void> {
    const at = this.held.indexOf(held);
    if (at < 0) return;
    this.held.splice(at, 1);
    clearTimeout(held.timer);
    const copied = await held.copied;
    if (!copied) return;
    await copied.tallies.clear();
    await this.rooms.give(copied.extract.table);
  }
}
