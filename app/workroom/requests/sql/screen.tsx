import { lazy, Suspense } from 'react';
import { withInputRenamed } from '#core/dataset/rename-input.ts';
import type { Request } from '#core/dataset/schema.ts';
import { Button } from '../../../ui/button.tsx';
import { Section } from '../../../ui/page.tsx';
import { emptySql, withText } from '../../data-set-state.ts';
import { InputList } from '../../input-list.tsx';
import type { RequestProps, RequestScreen, StartProps } from '../screen.ts';

type SqlRequest = Extract<Request, { kind: 'sql' }>;

const SqlEditor = lazy(() => import('./editor.tsx').then((module) => ({ default: module.SqlEditor })));

function SqlStart({ source, onStart }: StartProps) {
  return (
    <Section title="From SQL" note="One SELECT of your own, with inputs written as :name.">
      <Button onClick={() => onStart(emptySql(source))}>Write SQL</Button>
    </Section>
  );
}

function SqlCall({ request, definition, tables, choices, onChange }: RequestProps<SqlRequest>) {
  return (
    <Section title="SQL" note="Inputs are found in the text by themselves.">
      <Suspense fallback={<div className="h-44 bg-well" />}>
        <SqlEditor
          value={request.text}
          tables={tables}
          onChange={(text) => onChange((now) => withText(now, text))}
        />
      </Suspense>
      <InputList
        inputs={definition.inputs}
        choices={choices}
        tables={tables}
        onChange={(inputs) => onChange((now) => ({ ...now, inputs }))}
        onRename={(from, to) => onChange((now) => withInputRenamed(now, from, to))}
      />
    </Section>
  );
}

export const sql: RequestScreen<SqlRequest> = {
  Start: SqlStart,
  Call: SqlCall,
  mayTry: ({ text }) => text.trim() !== '',
};
