import { PostgreSQL, sql } from '@codemirror/lang-sql';
import CodeMirror, { EditorView } from '@uiw/react-codemirror';
import { useMemo } from 'react';
import type { FoundTable } from '#core/dataset/found.ts';

/** In the page's own type and colours, in both themes. */
const look = EditorView.theme({
  '&': {
    fontSize: '0.875rem',
    backgroundColor: 'var(--sheet)',
    color: 'var(--ink)',
    border: '1px solid var(--line)',
    borderRadius: '4px',
  },
  '&.cm-focused': { outline: '2px solid var(--accent)' },
  '.cm-content': { fontFamily: 'var(--font-mono)', caretColor: 'var(--ink)' },
  '.cm-gutters': { backgroundColor: 'var(--well)', color: 'var(--muted)', border: 'none' },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'var(--wash)' },
  '.cm-tooltip': { backgroundColor: 'var(--sheet)', color: 'var(--ink)', border: '1px solid var(--line)' },
});

/** An editor for one SELECT, with completion from the source's own tables and columns. */
export function SqlEditor({
  value,
  onChange,
  tables,
}: {
  value: string;
  onChange: (text: string) => void;
  tables: readonly FoundTable[];
}) {
  const extensions = useMemo(() => {
    const schema = Object.fromEntries(
      tables.map((table) => [
        table.schema === 'public' ? table.name : `${table.schema}.${table.name}`,
        table.columns.map(({ name }) => name),
      ]),
    );
    return [
      sql({ dialect: PostgreSQL, schema, upperCaseKeywords: true }),
      look,
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ 'aria-label': 'SQL' }),
    ];
  }, [tables]);
  return (
    <CodeMirror
      value={value}
      onChange={onChange}
      extensions={extensions}
      minHeight="11rem"
      maxHeight="24rem"
      theme="none"
      basicSetup={{ foldGutter: false }}
    />
  );
}
