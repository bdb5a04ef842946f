import { closeCompletion, currentCompletions } from '@codemirror/autocomplete';
import { EditorView, type Extension, Prec } from '@uiw/react-codemirror';

/**
 * Enter after a word that is whole ends the line, whatever longer words begin with it: a completion is taken only where the
 * word is not one that is offered itself. Heard before any of the editor's own keys, of which one takes completions.
 */
export const finishedWord: Extension = Prec.highest(
  EditorView.domEventHandlers({
    keydown: ({ key }, view) => {
      if (key !== 'Enter') return;
      const { head } = view.state.selection.main;
      const before = view.state.sliceDoc(Math.max(0, head - 200), head);
      const word = /[\p{L}\p{N}_]+$/u.exec(before)?.[0].toLowerCase();
      const open = currentCompletions(view.state);
      if (word !== undefined && open.some(({ label }) => label.toLowerCase() === word)) closeCompletion(view);
    },
  }),
);
