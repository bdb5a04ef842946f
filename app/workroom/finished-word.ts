import { closeCompletion, currentCompletions } from '@codemirror/autocomplete';
import { type Extension, keymap, Prec } from '@uiw/react-codemirror';

/**
 * Enter after a word that is whole ends the line, whatever longer words begin with it: a completion is taken only where the
 * word is not one that is offered itself.
 */
export const finishedWord: Extension = Prec.highest(
  keymap.of([
    {
      key: 'Enter',
      run: (view) => {
        const { head } = view.state.selection.main;
        const before = view.state.sliceDoc(Math.max(0, head - 200), head);
        const word = /[\p{L}\p{N}_]+$/u.exec(before)?.[0].toLowerCase();
        // What is open can be taken, also while it is being brought up to date.
        const open = currentCompletions(view.state);
        if (word !== undefined && open.some(({ label }) => label.toLowerCase() === word))
          closeCompletion(view);
        // What Enter does now is decided by what is open now.
        return false;
      },
    },
  ]),
);
