import { useMemo, useState } from 'react';
import { useFetcher } from 'react-router';
import { proposedIdentity } from '#core/dataset/identity.ts';
import { type Form, formWords } from '#core/dataset/kept/forms.ts';
import type { FileReading } from '#core/dataset/upload.ts';
import { type FieldType, fieldTypes } from '#core/value/field/types.ts';
import { counted } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import { capital } from '#core/words/capital.ts';
import type { SeenField, SeenFile } from '#server/uploads/look.ts';
import { Button } from '../ui/button.tsx';
import { ChoiceBox, plainChoices } from '../ui/choice.tsx';
import { TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Section } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { DropPlace } from './drop-place.tsx';
import { ReadingFields } from './reading-fields.tsx';
import { SampleTable } from './sample-table.tsx';
import { useUpload } from './use-upload.ts';

interface Props {
  readonly id: string;
  readonly into: string;
  readonly dataSets: readonly { id: string; name: string; many: string }[];
}

/** A file: sent, seen with its types and what could not be read, and only then accepted. */
export function UploadPage({ id, into, dataSets }: Props) {
  const { upload, send, stop, look } = useUpload();
  if (upload.state === 'seen')
    return (
      <div className="flex flex-col gap-4">
        {upload.problem && <ProblemMessage problem={upload.problem} />}
        <Seen
          key={upload.file}
          id={id}
          startInto={into}
          dataSets={dataSets}
          name={upload.name}
          file={upload.file}
          seen={upload.seen}
          onRead={(reading) => void look(upload.name, upload.file, reading, upload.seen)}
        />
      </div>
    );
  return (
    <div className="flex max-w-2xl flex-col gap-4">
      {upload.state === 'none' && upload.problem && <ProblemMessage problem={upload.problem} />}
      <DropPlace upload={upload} onFile={send} onStop={stop} />
    </div>
  );
}

function Seen({
  id,
  startInto,
  dataSets,
  name: fileName,
  file,
  seen,
  onRead,
}: Pick<Props, 'id' | 'dataSets'> & {
  startInto: string;
  name: string;
  file: string;
  seen: SeenFile;
  onRead: (reading: FileReading) => void;
}) {
  const stem = fileName.replace(/(\.[a-z0-9]{1,8})+$/i, '').replace(/[_-]+/g, ' ');
  const [into, setInto] = useState(dataSets.some((each) => each.id === startInto) ? startInto : '');
  const [how, setHow] = useState<'replace' | 'add'>('replace');
  const [name, setName] = useState(capital(stem));
  const [noun, setNoun] = useState({ one: 'record', many: 'records' });
  const [types, setTypes] = useState<Record<string, FieldType>>({});
  const accepting = useFetcher<{ problem: Problem }>();
  const [asWritten, setAsWritten] = useState<ReadonlySet<string>>(new Set());
  const formOf = ({ name, form }: SeenField) => (asWritten.has(name) ? undefined : form);
  const typeOf = (field: SeenField): FieldType =>
    types[field.name] ?? (field.form && asWritten.has(field.name) ? 'text' : field.type);
  const formed = seen.fields.flatMap((field) => {
    const form = formOf(field);
    return form && typeOf(field) === field.type ? [{ name: field.name, ...form }] : [];
  });
  const [identity, setIdentity] = useState<{ key?: string; title?: string }>({});
  const proposed = useMemo(
    () =>
      proposedIdentity(seen.fields, noun.one, {
        isUnique: (field) => seen.fields.some((each) => each.name === field && each.unique),
        isBlank: (field) => seen.fields.some((each) => each.name === field && each.blank === seen.total),
      }),
    [seen, noun.one],
  );
  const { key = '', title = '' } = { ...proposed, ...identity };
  const leaveAsWritten = (name: string, leave: boolean): void => {
    const next = new Set(asWritten);
    if (leave) next.add(name);
    else next.delete(name);
    setAsWritten(next);
    setTypes(Object.fromEntries(Object.entries(types).filter(([each]) => each !== name)));
  };
  const accept = (): void => {
    const about = { file, reading: seen.reading };
    void accepting.submit(
      JSON.stringify(
        into
          ? { what: 'later', ...about, into, how }
          : {
              what: 'new',
              ...about,
              id,
              name,
              noun,
              fields: seen.fields.map((field) => ({ name: field.name, type: typeOf(field) })),
              ...(key ? { key } : {}),
              ...(title ? { title } : {}),
              forms: Object.fromEntries(formed.map((each) => [each.name, each.form])),
              units: Object.fromEntries(
                formed.flatMap((each) => (each.unit ? [[each.name, each.unit]] : [])),
              ),
            },
      ),
      { method: 'post', action: '/workroom/upload', encType: 'application/json' },
    );
  };
  const isBusy = accepting.state !== 'idle';
  return (
    <div className="flex flex-col gap-6">
      <div className="flex flex-wrap items-end gap-4 border-b border-line pb-4">
        {dataSets.length > 0 && (
          <div className="w-64">
            <SelectField
              label="It becomes"
              value={into}
              onChange={setInto}
              choices={[
                { value: '', words: 'a new data set' },
                ...dataSets.map((each) => ({ value: each.id, words: `records of ${each.name}` })),
              ]}
            />
          </div>
        )}
        {into ? (
          <div className="w-64">
            <SelectField
              label="And"
              value={how}
              onChange={setHow}
              choices={[
                { value: 'replace', words: 'replaces those there are' },
                { value: 'add', words: 'is added to those there are' },
              ]}
            />
          </div>
        ) : (
          <>
            <div className="w-72">
              <TextField
                label="Name"
                value={name}
                maxLength={500}
                onChange={({ target }) => setName(target.value)}
              />
            </div>
            <div className="w-40">
              <TextField
                label="One record is one"
                value={noun.one}
                maxLength={200}
                onChange={({ target }) => setNoun({ ...noun, one: target.value })}
              />
            </div>
            <div className="w-40">
              <TextField
                label="Several are"
                value={noun.many}
                maxLength={200}
                onChange={({ target }) => setNoun({ ...noun, many: target.value })}
              />
            </div>
          </>
        )}
        <span className="flex-1" />
        <Button look="main" disabled={isBusy || (!into && !name.trim())} onClick={accept}>
          {isBusy ? 'Accepting …' : 'Accept the file'}
        </Button>
      </div>
      {accepting.data && !isBusy && 'problem' in accepting.data && (
        <ProblemMessage problem={accepting.data.problem} />
      )}
      <div className="grid gap-x-10 gap-y-6 xl:grid-cols-[minmax(0,34rem)_minmax(0,1fr)]">
        <div className="flex min-w-0 flex-col gap-6">
          <ReadingFields reading={seen.reading} sheets={seen.sheets} lists={seen.lists} onRead={onRead} />
          <Rejected rejected={seen.rejected} total={seen.total} />
          {seen.errors && <CellErrorList errors={seen.errors} />}
          <Section title="Fields" note="Types are those of every record, not of the first few.">
            {!into && (
              <div className="mb-3 grid grid-cols-2 gap-3">
                <SelectField
                  label="A record is identified by"
                  value={key}
                  onChange={(chosen) => setIdentity({ ...identity, key: chosen })}
                  choices={[
                    { value: '', words: 'nothing' },
                    ...plainChoices(
                      seen.fields
                        .filter((field) => field.unique || field.name === key)
                        .map(({ name }) => name),
                    ),
                  ]}
                />
                <SelectField
                  label="It is named by"
                  value={title}
                  onChange={(chosen) => setIdentity({ ...identity, title: chosen })}
                  choices={[
                    { value: '', words: 'nothing' },
                    ...plainChoices(
                      seen.fields.filter(({ type }) => type !== 'nested').map(({ name }) => name),
                    ),
                  ]}
                />
              </div>
            )}
            <table className="w-full text-left">
              <thead className="text-small text-slate">
                <tr>
                  <th scope="col">Field</th>
                  <th scope="col">Type</th>
                  <th scope="col" className="text-right">
                    Blank
                  </th>
                </tr>
              </thead>
              <tbody>
                {seen.fields.map((field) => (
                  <tr key={field.name} className="border-b border-hair align-top">
                    <td className="max-w-52 py-1 pr-3 font-mono text-small">
                      {field.name}
                      {field.form && (
                        <FormNote
                          form={field.form.form}
                          isRead={formed.some(({ name }) => name === field.name)}
                          disabled={into !== ''}
                          onLeave={(leave) => leaveAsWritten(field.name, leave)}
                        />
                      )}
                      {field.nearly && (
                        <span className="block font-sans text-slipping">
                          All but {formatNumber(String(field.nearly.others))} are {field.nearly.type}: such as
                          “{field.nearly.examples.slice(0, 3).join('”, “')}”. It stays text, so that nothing
                          is lost.
                        </span>
                      )}
                    </td>
                    <td className="py-1 pr-3">
                      <ChoiceBox
                        aria-label={`Type of ${field.name}`}
                        value={typeOf(field)}
                        disabled={into !== ''}
                        onChange={(chosen) => setTypes({ ...types, [field.name]: chosen })}
                        className="border-b border-line bg-sheet px-1 py-0.5"
                        choices={plainChoices(fieldTypes)}
                      />
                    </td>
                    <td className="figures py-1 text-right">{formatNumber(String(field.blank))}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </Section>
        </div>
        <div className="min-w-0 self-start xl:sticky xl:top-16">
          <Section
            title="Its records"
            note={`As they stand in ${fileName}: ${formatNumber(String(seen.total))} in all.`}
          >
            <SampleTable
              zone="UTC"
              asTheyStand
              tried={{
                request: { kind: 'upload', columns: [] },
                fields: seen.fields.map((field) => ({
                  name: field.name,
                  type: typeOf(field),
                  label: field.name,
                })),
                records: seen.records,
                took: seen.took,
                more: seen.total > seen.records.length,
              }}
            />
          </Section>
        </div>
      </div>
    </div>
  );
}

/** How the texts of a field are read, which one click undoes or does again. */
function FormNote({
  form,
  isRead,
  disabled,
  onLeave,
}: {
  form: Form;
  isRead: boolean;
  disabled: boolean;
  onLeave: (leave: boolean) => void;
}) {
  const words = `Read as ${formWords[form]}`;
  return (
    <span className="block font-sans text-slate">
      {isRead ? `${words}.` : 'As it is written.'}{' '}
      <button
        type="button"
        disabled={disabled}
        className="text-accent underline disabled:text-muted disabled:no-underline"
        onClick={() => onLeave(isRead)}
      >
        {isRead ? 'Keep as text' : words}
      </button>
    </span>
  );
}

/** Cells that a spreadsheet could not work out: counted, and shown by their places. */
function CellErrorList({ errors: { count, examples } }: { errors: NonNullable<SeenFile['errors']> }) {
  return (
    <Section
      title={`${counted(count, 'cell holds', 'cells hold')} an error`}
      note="They are blank. Mend them in the spreadsheet, if they should be values."
    >
      <p className="text-small">
        {examples.map(({ place, error }) => `${place} (${error})`).join(', ')}
        {count > examples.length ? ' …' : ''}
      </p>
    </Section>
  );
}

/** What could not be read: counted, and shown where it stands. */
function Rejected({ rejected, total }: { rejected: SeenFile['rejected']; total: number }) {
  if (rejected.count === 0)
    return (
      <p className="text-small text-muted">
        {total === 1
          ? 'Its one record can be read.'
          : `All ${formatNumber(String(total))} records can be read.`}
      </p>
    );
  return (
    <Section
      title={`${counted(rejected.count, 'line')} that cannot be read`}
      note="They are left out when the file is accepted."
    >
      <ul>
        {rejected.examples.map(({ line, text, why }) => (
          <li key={line} className="border-b border-hair py-1">
            <span className="figures text-small text-muted">line {line}</span>{' '}
            <span className="font-mono text-small break-all">{text}</span>
            <span className="block text-small text-slipping">{why}</span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
