import { sql } from 'drizzle-orm';
import { customType, timestamp } from 'drizzle-orm/pg-core';

/* Columns that many tables have. */

export const bytes = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
export const moment = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });
export const creation = () => moment('made_at').notNull().default(sql`now()`);
