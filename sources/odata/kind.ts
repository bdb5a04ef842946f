import { askingAsChanger, changerForm } from '../http/changer.ts';
import { asking } from '../http/credentials.ts';
import { serviceConnection, serviceField, serviceForm, servicePlaces, serviceTexts } from '../http/form.ts';
import { anything, only, type SourceKind } from '../kind.ts';
import { fieldsOfTable } from '../table-fields.ts';
import { odataChanges } from './change.ts';
import type { ODataConnection } from './connection.ts';
import { countOData, discoverOData, fetchOData, testOData, tryOData } from './read.ts';

export const odata: SourceKind<ODataConnection> = {
  label: 'OData service',
  requests: ['table'],
  adding: {
    form: () => serviceForm('The root of the service, which $metadata stands under.'),
    connectionOf: (texts) => serviceConnection('odata', texts),
    fieldOf: serviceField,
    saidOf: serviceTexts,
  },
  secretPlaces: servicePlaces,
  where: ({ base }) => `OData service at ${base}`,
  perDay: ({ allowance }) => allowance ?? null,
  changing: ({ auth }) => changerForm(auth),
  linesAs: 'member',
  hasTables: true,
  begins: null,
  open: ({ connection, secret, changer }, { client, now }) => {
    const ask = asking(connection.auth, secret, client);
    const service = { base: connection.base, ask };
    const askToChange = askingAsChanger(connection.auth, changer, client);
    return {
      test: () => testOData(connection, ask, now),
      discover: () => discoverOData(service),
      check: anything,
      try: ({ request, signal, limit = 50 }) => {
        const query = only(request, 'table');
        return tryOData(service, query, fieldsOfTable(query), { signal, limit });
      },
      fetch: fetchOData(service),
      count: (request, asked) => countOData(service, only(request, 'table'), asked),
      changes: askToChange ? odataChanges({ ...service, ask: askToChange }, connection, now) : null,
    };
  },
};
