import { Command } from 'cmdk';
import * as Dialog from 'radix-ui/dialog';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import type { FoundRecord } from '#server/panes/find.ts';
import { dashboardLinks } from './dashboard-links.ts';
import { useDesk } from './desk-context.ts';
import { useSavedScopes } from './use-saved-scopes.ts';
import { useViewAnswer } from './use-view-answer.ts';

interface Doing {
  readonly words: string;
  readonly more?: string;
  readonly run: () => void;
}

const heading = 'px-3 pt-2 pb-1 text-small font-strong text-muted';
const row =
  'flex min-h-8 cursor-default items-baseline gap-3 rounded-[4px] px-3 py-1 outline-none data-[selected=true]:bg-wash data-[selected=true]:text-accent';

const optionOf = (group: string, index: number): string => `${group} ${index}`;

/** Finds a record by its name, a dashboard or a pane, or does something with the page: all by typing a part of it. */
export function FindSheet({ onClose, onRefresh }: { onClose: () => void; onRefresh: () => void }) {
  const [text, setText] = useState('');
  const groups = useDoings(text, onRefresh);
  const chosen = useRef<(() => void) | null>(null);
  // What is found gives way to what is found next, and one of them is always the one that Enter takes.
  const [selected, setSelected] = useState('');
  const values = groups.flatMap(({ name, doings }) => doings.map((_, index) => optionOf(name, index)));
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
        <Dialog.Content
          aria-describedby={undefined}
          // What was chosen says where the keyboard goes on; else it is back where it was.
          onCloseAutoFocus={(event) => {
            if (!chosen.current) return;
            event.preventDefault();
            chosen.current();
          }}
          className="fixed top-[12vh] left-1/2 z-50 w-[min(36rem,94vw)] -translate-x-1/2 overflow-hidden rounded-[6px] border border-line bg-sheet text-body text-ink shadow-[0_12px_40px_rgb(0_0_0/0.2)]"
        >
          <Dialog.Title className="sr-only">Find or do</Dialog.Title>
          <Command
            shouldFilter={false}
            loop
            label="Find or do"
            value={values.includes(selected) ? selected : (values[0] ?? '')}
            onValueChange={setSelected}
          >
            <Command.Input
              value={text}
              onValueChange={setText}
              maxLength={200}
              placeholder="Find a record, a dashboard, a pane, or something to do"
              className="w-full border-b border-hair bg-sheet px-4 py-3 text-lead text-ink outline-none placeholder:text-muted"
            />
            <Command.List className="max-h-[min(26rem,60vh)] overflow-auto p-1.5">
              <Command.Empty className="px-3 py-2 text-muted">
                {text.trim() === '' ? 'Type a part of it.' : 'Nothing of that name.'}
              </Command.Empty>
              {groups.map(({ name, doings }) => (
                <Command.Group key={name} heading={<span className={heading}>{name}</span>}>
                  {doings.map(({ words, more, run }, index) => (
                    <Command.Item
                      key={`${words} ${more ?? ''}`}
                      value={optionOf(name, index)}
                      onSelect={() => {
                        chosen.current = run;
                        onClose();
                      }}
                      className={row}
                    >
                      <span className="min-w-0 flex-1 truncate">{words}</span>
                      {more && <span className="text-small text-muted">{more}</span>}
                    </Command.Item>
                  ))}
                </Command.Group>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** What can be found and done, in groups that are not empty. */
function useDoings(text: string, onRefresh: () => void): { name: string; doings: Doing[] }[] {
  const { context, view, open, setScope } = useDesk();
  const navigate = useNavigate();
  const typed = text.trim().toLowerCase();
  const found = useViewAnswer<{ records: readonly FoundRecord[] }>(
    'find',
    'finding records',
    [['_find', text.trim()]],
    200,
  );
  const saved = useSavedScopes().answer;
  const records = typed !== '' && found?.ok ? found.records : [];
  const isNamed = ({ words }: Doing): boolean => words.toLowerCase().includes(typed);
  return [
    {
      name: 'Records',
      doings: records.map(
        ({ pane, key, title, noun }): Doing => ({
          words: title,
          more: noun,
          run: () => open({ kind: 'record', pane, key, title }),
        }),
      ),
    },
    {
      name: 'Dashboards',
      doings: dashboardLinks()
        .map(
          (link): Doing => ({
            words: link.textContent ?? '',
            run: () => void navigate(link.getAttribute('href') ?? '/'),
          }),
        )
        .filter(isNamed),
    },
    {
      name: 'Saved scopes',
      doings: (saved?.scopes ?? [])
        .map((scope): Doing => ({ words: scope.name, run: () => void navigate({ search: scope.search }) }))
        .filter(isNamed),
    },
    {
      name: 'On this page',
      doings: context.dashboard.panes
        .map(({ id, title }): Doing => ({ words: title || 'Untitled', run: () => goTo(id) }))
        .filter(isNamed),
    },
    {
      name: 'Do',
      doings: [
        { words: 'Refresh', more: 'r', run: onRefresh },
        {
          words: 'Go back to how this page begins',
          run: () => setScope(() => emptyScope),
        },
        ...(context.scope.focus.length > 0
          ? [
              {
                words: 'Clear what is being looked at',
                run: () => setScope((now) => ({ ...now, focus: [] })),
              },
            ]
          : []),
        ...(view.edition === 'draft' ? [] : [{ words: 'Print', run: () => window.print() }]),
      ].filter(isNamed),
    },
  ].filter(({ doings }) => doings.length > 0);
}

/** Brings a pane into view, and the keyboard to it: what is in it may still be on its way. */
function goTo(pane: string): void {
  const place = document.querySelector<HTMLElement>(`[data-pane="${CSS.escape(pane)}"]`);
  if (!place) return;
  place.scrollIntoView({ block: 'start' });
  place.tabIndex = -1;
  place.focus({ preventScroll: true });
}
