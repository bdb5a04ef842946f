import {
  databaseChanger,
  databaseConnection,
  databaseForm,
  databasePlaces,
  databaseWhere,
} from '../database-form.ts';
import { textsOf } from '../form.ts';
import { only, type SourceKind, whyNot } from '../kind.ts';
import { postgresChanges } from './change.ts';
import { addressOf, type PostgresConnection } from './connection.ts';
import { discover } from './discover.ts';
import { requireSql } from './functions.ts';
import { testPostgres } from './prove.ts';
import { fetchPostgres } from './read.ts';
import { tryRequest } from './try.ts';

const label = 'PostgreSQL';

export const postgres: SourceKind<PostgresConnection> = {
  label,
  requests: ['table', 'sql'],
  adding: {
    form: () => databaseForm('5432'),
    connectionOf: (texts) => databaseConnection('postgres', texts),
    saidOf: textsOf,
  },
  secretPlaces: databasePlaces,
  where: (connection) => databaseWhere(label, connection),
  changing: databaseChanger,
  linesAs: 'rows',
  hasTables: true,
  begins: null,
  live: addressOf,
  open: ({ id, connection, secret, changer }, { allowed, now }) => {
    const address = addressOf(connection, secret, allowed);
    return {
      test: () => testPostgres(address, now),
      discover: () => discover(address),
      check: async (request) =>
        request.kind === 'sql' ? whyNot(() => requireSql(request.text, address)) : null,
      try: ({ request, inputs, signal, limit = 50 }) =>
        tryRequest(only(request, 'table', 'sql'), { source: id, address, inputs, signal, limit }),
      fetch: fetchPostgres(address, id),
      changes: changer ? postgresChanges({ ...address, user: changer.user, password: changer.secret }) : null,
    };
  },
};
