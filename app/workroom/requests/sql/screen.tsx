import { lazy, Suspense } from 'react';
import { withInputRenamed } from '#core/dataset/rename-input.ts';
import type { Request } from '#core/dataset/schema.ts';
import { Section } from '../../../ui/page.tsx';
import { withText } from '../../data-set-state.ts';
import { InputList } from '../../input-list.tsx';
import type { RequestProps, RequestScreen } from '../screen.ts';

type SqlRequest = Extract<Request, { kind: 'sql' }>;

const SqlEditor = lazy(() => import('./editor.tsx').then((module) => ({ default: module.SqlEditor })));

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
  Call: SqlCall,
  mayTry: ({ text }) => text.trim() !== '',
};
