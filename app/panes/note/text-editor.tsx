import CodeMirror, {
  Decoration,
  type DecorationSet,
  EditorView,
  MatchDecorator,
  type ReactCodeMirrorRef,
  ViewPlugin,
  type ViewUpdate,
  WidgetType,
} from '@uiw/react-codemirror';
import { useMemo, useRef } from 'react';
import { valuePattern, written } from '#core/dashboard/pane/kinds/note/text.ts';
import { Button } from '../../ui/button.tsx';
import { editorLook } from '../../ui/editor-look.ts';

/** A live value as it stands among the words: one thing, which is put in and taken out as a whole. */
class ValueWidget extends WidgetType {
  constructor(readonly name: string) {
    super();
  }
  override eq(other: ValueWidget): boolean {
    return other.name === this.name;
  }
  override toDOM(): HTMLElement {
    const chip = document.createElement('span');
    chip.textContent = this.name;
    chip.className = 'rounded-[3px] bg-wash px-1 font-strong text-accent';
    return chip;
  }
}

const matcher = new MatchDecorator({
  regexp: valuePattern,
  decoration: (match) => Decoration.replace({ widget: new ValueWidget(match[1] ?? '') }),
});

const chips = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;
    constructor(view: EditorView) {
      this.decorations = matcher.createDeco(view);
    }
    update(update: ViewUpdate): void {
      this.decorations = matcher.updateDeco(update, this.decorations);
    }
  },
  {
    decorations: ({ decorations }) => decorations,
    provide: (plugin) =>
      EditorView.atomicRanges.of((view) => view.plugin(plugin)?.decorations ?? Decoration.none),
  },
);

/** The text of a note. Live values are put in where the cursor is. */
export function TextEditor({
  label,
  text,
  names,
  onChange,
}: {
  label: string;
  text: string;
  names: readonly string[];
  onChange: (text: string) => void;
}) {
  const editor = useRef<ReactCodeMirrorRef>(null);
  const extensions = useMemo(
    () => [
      chips,
      editorLook(),
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'true', lang: 'en-GB' }),
    ],
    [label],
  );
  const insert = (name: string): void => {
    const view = editor.current?.view;
    if (!view) return;
    view.dispatch(view.state.replaceSelection(written(name)));
    view.focus();
  };
  return (
    <>
      <CodeMirror
        ref={editor}
        value={text}
        onChange={onChange}
        extensions={extensions}
        indentWithTab={false}
        minHeight="9rem"
        maxHeight="24rem"
        theme="none"
        basicSetup={{
          lineNumbers: false,
          foldGutter: false,
          highlightActiveLine: false,
          autocompletion: false,
          closeBrackets: false,
        }}
      />
      <div className="flex flex-wrap items-center gap-1">
        <span className="text-small text-muted">Put in:</span>
        {names.map((name) => (
          <Button key={name} look="quiet" className="min-h-7" onClick={() => insert(name)}>
            {name}
          </Button>
        ))}
      </div>
    </>
  );
}
