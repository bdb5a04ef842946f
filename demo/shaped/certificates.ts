import { randomUUID } from 'node:crypto';
import type { ReadableStream } from 'node:stream/web';
import { withOutcome } from '#core/dataset/outcome.ts';
import { dayOf } from '#core/value/period/period.ts';
import { findDataSet, saveDataSet } from '#server/store/data-sets.ts';
import { receiveFile } from '#server/uploads/files.ts';
import { acceptNew, lookAtFile } from '#server/uploads/look.ts';
import { zone } from '../line.ts';
import { trainingSheet } from '../training.ts';
import { numbered, percent, type Shelf } from './shelf.ts';

/** The training department's sheet, uploaded and mended in place: steps work on what was sent, however often a later one comes. */
export async function shapeCertificates(shelf: Shelf, now: Date): Promise<void> {
  const sheet = new Blob([trainingSheet(dayOf(now, zone))]).stream() as ReadableStream<Uint8Array>;
  const { id: file } = await receiveFile(sheet);
  const { reading, fields } = await lookAtFile(file);
  const id = randomUUID();
  const name = 'Crew certificates';
  await acceptNew({ id, file, reading, fields, name, noun: { one: 'row', many: 'rows' }, by: null });
  const stored = await findDataSet(id);
  if (!stored) throw new Error('the sheet was not accepted');
  const { definition: sent, revision } = stored;
  const crew = shelf.of('Crew');
  const world = new Map([[crew.id, crew.definition]]);
  const definition = withOutcome(
    {
      ...sent,
      start: sent.fields,
      noun: { one: 'certificate', many: 'certificates' },
      measures: [
        { name: 'count', label: 'certificates', calculation: { kind: 'count' } },
        { name: 'people', label: 'people trained', calculation: { kind: 'distinct', field: 'Staff no' } },
        {
          name: 'run out',
          label: 'share that has run out',
          calculation: { kind: 'share', where: { field: 'days left', test: { op: 'below', value: '0' } } },
          format: percent,
          good: 'down',
        },
      ],
      steps: numbered([
        { kind: 'distinct', by: [], order: [] },
        { kind: 'type', field: 'Passed on', to: 'date', misfit: 'list' },
        { kind: 'type', field: 'Hours', to: 'decimal', misfit: 'blank' },
        {
          kind: 'derive',
          name: 'valid until',
          making: { kind: 'expression', text: '"Passed on" + "Valid for years" * 365' },
        },
        {
          kind: 'derive',
          name: 'days left',
          making: { kind: 'expression', text: '"valid until" - CURRENT_DATE' },
        },
        { kind: 'type', field: 'Staff no', to: 'text', misfit: 'blank' },
        {
          kind: 'lookUp',
          from: { dataSet: crew.id },
          on: [{ field: 'Staff no', other: 'staff_no' }],
          mode: 'one',
          take: [{ field: 'post', as: 'post' }],
          order: [],
        },
      ]),
      subsets: [
        {
          name: 'soon',
          label: 'certificates that run out within 90 days',
          where: { field: 'days left', test: { op: 'between', from: '0', to: '90' } },
        },
      ],
      checks: [
        { name: 'Every course has a date', expects: { kind: 'filled', field: 'Passed on' }, holds: false },
        {
          name: 'One of each course for each person',
          expects: { kind: 'unique', fields: ['Staff no', 'Course'] },
          holds: true,
        },
      ],
    },
    world,
  );
  await saveDataSet({ id, name, definition, revision, by: null });
}
