import { autocompletion } from '@codemirror/autocomplete';
import { type Diagnostic, linter } from '@codemirror/lint';
import CodeMirror, { EditorView } from '@uiw/react-codemirror';
import { useMemo } from 'react';
import { checkExpression, writtenName } from '#core/ask/expression/check.ts';
import { forms, functions } from '#core/ask/expression/functions.ts';
import type { Field } from '#core/value/field/field.ts';
import { typeWords } from '#core/words/step.ts';
import { editorLook } from '../../ui/editor-look.ts';
import { finishedWord } from '../finished-word.ts';

/** An expression as it is typed: its fields and functions offered, what is wrong marked where it stands. */
export function ExpressionField({
  value,
  fields,
  onChange,
}: {
  value: string;
  fields: readonly Field[];
  onChange: (text: string) => void;
}) {
  const checked = checkExpression(value, fields);
  const extensions = useMemo(
    () => [
      editorLook(),
      finishedWord,
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ 'aria-label': 'Expression' }),
      linter((view): Diagnostic[] => {
        const text = view.state.doc.toString();
        const found = checkExpression(text, fields);
        if (found.ok || text.trim() === '') return [];
        const to = Math.min(text.length, Math.max(found.at.to, found.at.from + 1));
        return [{ from: Math.min(found.at.from, to), to, severity: 'error', message: found.why }];
      }),
      autocompletion({
        override: [
          (context) => {
            const word = context.matchBefore(/[\p{L}\p{N}_]+/u);
            if (!word && !context.explicit) return null;
            return {
              from: word?.from ?? context.pos,
              options: [
                ...fields.map((field) => ({
                  label: writtenName(field.name),
                  detail: typeWords[field.type],
                  type: 'variable',
                  boost: 1,
                })),
                ...functions.map(({ name, written, words }) => ({
                  label: name.toUpperCase(),
                  apply: `${name.toUpperCase()}(`,
                  detail: written,
                  info: words,
                  type: 'function',
                })),
              ],
            };
          },
        ],
      }),
    ],
    [fields],
  );
  return (
    <div className="min-w-0">
      <CodeMirror
        value={value}
        onChange={onChange}
        extensions={extensions}
        minHeight="4.5rem"
        maxHeight="14rem"
        theme="none"
        indentWithTab={false}
        basicSetup={{
          foldGutter: false,
          lineNumbers: false,
          highlightActiveLine: false,
          autocompletion: false,
        }}
      />
      <p className="mt-1 text-small text-muted" role="status">
        {checked.ok
          ? `Gives ${typeWords[checked.type]}.${checked.takesDays ? ' A day beside a moment is taken as its first instant in the desk’s zone.' : ''}`
          : `${checked.why}.`}
      </p>
      <details className="mt-1 text-small">
        <summary className="text-accent">What can be written</summary>
        <dl className="mt-1 max-h-56 overflow-auto rounded-[4px] border border-hair p-2">
          {[...forms, ...functions].map(({ written, words }) => (
            <div key={written} className="mb-1.5">
              <dt className="font-mono text-[0.8rem]">{written}</dt>
              <dd className="text-muted">{words}</dd>
            </div>
          ))}
        </dl>
      </details>
    </div>
  );
}
