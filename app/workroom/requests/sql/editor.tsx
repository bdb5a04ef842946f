import { PostgreSQL, sql } from '@codemirror/lang-sql';
import CodeMirror, { EditorView } from '@uiw/react-codemirror';
import { useMemo } from 'react';
import type { FoundTable } from '#core/dataset/found.ts';
import { editorLook } from '../../../ui/editor-look.ts';
import { finishedWord } from '../../finished-word.ts';

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
      editorLook(),
      finishedWord,
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ 'aria-label': 'SQL' }),
    ];
  }, [tables]);
  return (
    <CodeMirror
      value={value}
      onChange={onChange}
      extensions={extensions}
      indentWithTab={false}
      minHeight="11rem"
      maxHeight="24rem"
      theme="none"
      basicSetup={{ foldGutter: false }}
    />
  );
}
