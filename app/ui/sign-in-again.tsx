import * as Dialog from 'radix-ui/dialog';
import { useEffect, useRef } from 'react';
import { useFetcher } from 'react-router';
import { Button } from './button.tsx';
import { CodeField } from './code-field.tsx';
import { TextField } from './field.tsx';

/** Asks for the password where one is, when the session has ended: the page and what was typed in it stay. */
export function SignInAgain({ onDone }: { onDone: () => void }) {
  const fetcher = useFetcher<{
    problem: string | null;
    email: string;
    signedIn: boolean;
    needsCode: boolean;
  }>();
  // Only once the page has its data again: what is sent before that would be overtaken by it.
  const isIn = fetcher.data?.signedIn === true && fetcher.state === 'idle';
  const done = useRef(onDone);
  done.current = onDone;
  useEffect(() => {
    if (isIn) done.current();
  }, [isIn]);
  return (
    <Dialog.Root open>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-50 bg-[rgb(22_34_43/0.45)]" />
        <Dialog.Content className="fixed top-1/2 left-1/2 z-50 w-[min(26rem,92vw)] -translate-x-1/2 -translate-y-1/2 rounded-[6px] border border-line bg-sheet p-6 text-ink">
          <Dialog.Title className="text-lead font-strong">You have been signed out</Dialog.Title>
          <Dialog.Description className="mb-4 text-slate">
            Sign in to go on where you were. Nothing on this page is lost.
          </Dialog.Description>
          <fetcher.Form method="post" action="/sign-in" className="flex flex-col gap-3">
            <input type="hidden" name="stay" value="yes" />
            <TextField label="E-mail address" name="email" type="email" autoComplete="username" required />
            <TextField
              label="Password"
              name="password"
              type="password"
              autoComplete="current-password"
              required
              problem={fetcher.data?.needsCode ? undefined : (fetcher.data?.problem ?? undefined)}
            />
            {fetcher.data?.needsCode && <CodeField problem={fetcher.data.problem ?? undefined} />}
            <Button
              type="submit"
              look="main"
              className="self-start"
              disabled={fetcher.state === 'submitting'}
            >
              Sign in
            </Button>
          </fetcher.Form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
