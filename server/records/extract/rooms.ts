import type { ColumnarDatabase } from '#engine/columnar/database.ts';

/** The tables of an engine that copies of one kind can be in. There are only a few, so that its prepared statements are used again. */
export class Rooms {
  private readonly free: string[];

  constructor(
    private readonly engine: ColumnarDatabase,
    names: readonly string[],
  ) {
    this.free = [...names];
  }

  get isFull(): boolean {
    return this.free.length === 0;
  }

  /** A table that can be written; null where none is free. */
  take(): string | null {
    return this.free.pop() ?? null;
  }

  /** Empties a table, which then is free. */
  async give(table: string): Promise<void> {
    await this.engine.dropTable(table).catch(() => undefined);
    this.free.push(table);
  }
}
