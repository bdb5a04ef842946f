import { EditorView, type Extension } from '@uiw/react-codemirror';
import { pageNonce } from './nonce.ts';

/** In the page's own type and colours, in both themes; its styles carry the page's nonce. */
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

export const editorLook = (): Extension => [EditorView.cspNonce.of(pageNonce()), look];
