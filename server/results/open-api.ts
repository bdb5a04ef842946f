import { exportFormatNames } from '#core/words/export-formats.ts';

const text = { type: 'string' } as const;
const path = (name: string, description: string, schema: object = { ...text, format: 'uuid' }) => ({
  name,
  in: 'path',
  required: true,
  description,
  schema,
});
const refused = {
  '401': { description: 'The key is missing, has ended, or is none.' },
  '404': { description: 'There is nothing of this name for this key.' },
  '429': { description: 'The key has asked too often; `Retry-After` says for how long to wait.' },
};
const format = path('format', 'How the records are written.', { ...text, enum: exportFormatNames });

/** What programs can ask for, as OpenAPI 3.1 describes it; `base`: the path that all of it is under, empty for none. */
export const openApi = (base: string) => ({
  openapi: '3.1.0',
  info: {
    title: 'Results of Slate Glass',
    version: '1',
    description:
      'What data sets and panes of dashboards hold, as the person whose key it is may see it. Nothing can be changed here.',
  },
  components: {
    securitySchemes: {
      bearer: { type: 'http', scheme: 'bearer' },
      basic: { type: 'http', scheme: 'basic', description: 'Any user name, and the key as the password.' },
    },
  },
  security: [{ bearer: [] }, { basic: [] }],
  servers: [{ url: base || '/' }],
  paths: {
    '/results/': {
      get: {
        summary: 'What the key reaches',
        responses: { '200': { description: 'Data sets and dashboards.' }, ...refused },
      },
    },
    '/results/data-sets/{id}/records.{format}': {
      get: {
        summary: 'Every record of a data set, with all its fields',
        parameters: [path('id', 'The data set.'), format],
        responses: {
          '200': { description: 'The records. `ETag` is there where they are kept, and changes with them.' },
          '304': { description: 'Nothing is otherwise than under the `ETag` of `If-None-Match`.' },
          ...refused,
        },
      },
    },
    '/results/dashboards/{id}/panes/{pane}.{format}': {
      get: {
        summary: 'What a pane of a published dashboard lists',
        description:
          'Further parameters are those of the address of its page: the scope that a reader would choose.',
        parameters: [path('id', 'The dashboard.'), path('pane', 'The pane.', text), format],
        responses: { '200': { description: 'The records.' }, ...refused },
      },
    },
    '/results/odata/': {
      get: {
        summary: 'The data sets as an OData 4.01 service',
        description:
          'With `$metadata`, `$select`, `$filter`, `$orderby`, `$top`, `$skip`, `$count`, single records by key, and pages that name the next.',
        responses: { '200': { description: 'The entity sets.' }, ...refused },
      },
    },
  },
});
