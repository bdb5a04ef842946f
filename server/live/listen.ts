import pg from 'pg';
import { settings } from '../settings.ts';

const reconnectMs = 1_000;

/**
 * Hears what the database says on a channel (LISTEN), connecting again when the connection is lost. `hear` gets the text
 * of a notice; null after a connection that was lost is back, when notices may have been missed.
 */
export async function listen(
  channel: 'slate_due' | 'slate_send' | 'slate_changed' | 'slate_given' | 'slate_signed_out',
  hear: (text: string | null) => void,
): Promise<() => Promise<void>> {
  let client: pg.Client | null = null;
  let isClosed = false;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const again = (): void => {
    client = null;
    if (isClosed) return;
    clearTimeout(timer);
    timer = setTimeout(() => void connect(true), reconnectMs);
  };
  const connect = async (isBack: boolean): Promise<void> => {
    const next = new pg.Client({
      connectionString: settings().SLATE_DATABASE,
      application_name: 'slate-glass-listen',
    });
    next.on('error', again);
    next.on('end', again);
    next.on('notification', ({ payload }) => hear(payload ?? ''));
    try {
      await next.connect();
      await next.query(`LISTEN ${channel}`);
      client = next;
      if (isBack) hear(null);
    } catch {
      again();
    }
  };
  await connect(false);
  return async () => {
    isClosed = true;
    clearTimeout(timer);
    await client?.end().catch(() => undefined);
  };
}
