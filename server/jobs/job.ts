/** What nobody waits for at a page, done by the worker. */
export interface Job {
  /** Of its queue: letters, digits and hyphens. */
  readonly name: string;
  /** When it is done by itself: a cron expression, in UTC; null: only when it is sent. */
  readonly every: string | null;
  /** How many run side by side in one worker. */
  readonly atOnce: number;
  /** Seconds between two looks for what was sent. */
  readonly pause: number;
  /** Seconds after which one that has not ended is taken to be cut off. */
  readonly within: number;
  /** How often one that throws is begun again, a second later. */
  readonly retries: number;
  /** `data` is what was sent, as it came. */
  readonly run: (data: unknown, work: Work) => Promise<void>;
}

/** What a job is done with. */
export interface Work {
  /** Aborted when the worker stops. */
  readonly signal: AbortSignal;
  readonly report: (line: string, about?: object) => void;
  /** Has a job done, at once or at a moment. */
  readonly send: (job: Job, data: object, at?: Date) => Promise<void>;
}
