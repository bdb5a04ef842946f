const uuid = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

/** Whether something is an id as our database has them (UUID, RFC 9562). */
export const isId = (value: unknown): value is string => typeof value === 'string' && uuid.test(value);
