import { callProblem } from '#core/dataset/http/expand.ts';
import { httpRequest } from '#core/dataset/start.ts';
import { only, type SourceKind } from '../kind.ts';
import { httpChanges } from './change.ts';
import { askingAsChanger, changerForm } from './changer.ts';
import type { HttpConnection } from './connection.ts';
import { asking } from './credentials.ts';
import { fetchHttp } from './fetch.ts';
import { serviceConnection, serviceField, serviceForm, servicePlaces, serviceTexts } from './form.ts';
import { testHttp } from './prove.ts';
import { tryHttp } from './try.ts';

export const http: SourceKind<HttpConnection> = {
  label: 'HTTP API',
  requests: ['http'],
  adding: {
    form: () =>
      serviceForm('What all its paths begin with.', [
        {
          part: 'text',
          name: 'path',
          label: 'A path to look at first',
          hint: 'Its records are shown here.',
        },
      ]),
    connectionOf: (texts) => serviceConnection('http', texts),
    fieldOf: serviceField,
    saidOf: serviceTexts,
  },
  secretPlaces: servicePlaces,
  where: ({ base }) => `HTTP API at ${base}`,
  perDay: ({ allowance }) => allowance ?? null,
  changing: ({ auth }) => changerForm(auth),
  linesAs: 'member',
  hasTables: false,
  begins: { request: httpRequest('') },
  first: (path) => (path === '' ? null : httpRequest(path)),
  open: ({ connection, secret, changer }, { client, now }) => {
    const ask = asking(connection.auth, secret, client);
    const service = { base: connection.base, ask };
    const askToChange = askingAsChanger(connection.auth, changer, client);
    return {
      test: (path = '') => testHttp(connection, ask, path, now),
      discover: null,
      check: async (request) => (request.kind === 'http' ? callProblem(request.call) : null),
      try: ({ request, inputs, signal, find = false }) =>
        tryHttp(service, { request: only(request, 'http'), inputs, signal }, find),
      fetch: fetchHttp(service),
      changes: askToChange ? httpChanges({ ...service, ask: askToChange }, connection, now) : null,
    };
  },
};
