import {
  databaseChanger,
  databaseConnection,
  databaseForm,
  databasePlaces,
  databaseWhere,
} from '../database-form.ts';
import { textsOf } from '../form.ts';
import { only, type SourceKind, whyNot } from '../kind.ts';
import { fieldsOfTable } from '../table-fields.ts';
import { mariaChanges } from './change.ts';
import { requireSelect } from './check-sql.ts';
import type { MariaConnection } from './connection.ts';
import { discoverMaria, testMaria } from './look.ts';
import { fetchMaria, tryMaria } from './read.ts';

const label = 'MariaDB or MySQL';

export const mariadb: SourceKind<MariaConnection> = {
  label,
  requests: ['table', 'sql'],
  adding: {
    form: () => databaseForm('3306'),
    connectionOf: (texts) => databaseConnection('mariadb', texts),
    saidOf: textsOf,
  },
  secretPlaces: databasePlaces,
  where: (connection) => databaseWhere(label, connection),
  changing: databaseChanger,
  linesAs: 'rows',
  hasTables: true,
  begins: null,
  open: ({ connection, secret, changer }, { allowed, now }) => {
    const address = { ...connection, password: secret, allowed };
    return {
      test: () => testMaria(address, now),
      discover: () => discoverMaria(address),
      check: async (request) => (request.kind === 'sql' ? whyNot(() => requireSelect(request.text)) : null),
      try: ({ request, inputs, limit }) => {
        const query = only(request, 'table', 'sql');
        const fields = query.kind === 'table' ? fieldsOfTable(query) : [];
        return tryMaria(address, query, fields, inputs, limit);
      },
      fetch: fetchMaria(address),
      changes: changer ? mariaChanges({ ...address, user: changer.user, password: changer.secret }) : null,
    };
  },
};
