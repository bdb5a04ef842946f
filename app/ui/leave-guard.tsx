import * as AlertDialog from 'radix-ui/alert-dialog';
import { useEffect } from 'react';
import { useBlocker } from 'react-router';
import { Button } from './button.tsx';

/** Asks before a page is left on which something is not saved; `what` names it, as it begins a sentence: "The steps". */
export function LeaveGuard({ what, when }: { what: string; when: boolean }) {
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) => when && currentLocation.pathname !== nextLocation.pathname,
  );
  useEffect(() => {
    if (!when) return;
    const ask = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [when]);
  const isBlocked = blocker.state === 'blocked';
  return (
    <AlertDialog.Root open={isBlocked} onOpenChange={(open) => !open && blocker.reset?.()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-50 bg-[rgb(22_34_43/0.45)]" />
        <AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 w-[min(26rem,92vw)] -translate-x-1/2 -translate-y-1/2 rounded-[6px] border border-line bg-sheet p-6 text-ink">
          <AlertDialog.Title className="text-lead font-strong">{what} are not saved</AlertDialog.Title>
          <AlertDialog.Description className="mb-5 text-slate">
            What was changed since they were saved goes when this page is left.
          </AlertDialog.Description>
          <div className="flex flex-wrap gap-2">
            <AlertDialog.Cancel asChild>
              <Button look="main">Keep editing</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button onClick={() => blocker.proceed?.()}>Leave without saving</Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
