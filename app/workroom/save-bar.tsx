import { formatMoment } from '#core/value/format/format.ts';
import { Button } from '../ui/button.tsx';
import { SignInAgain } from '../ui/sign-in-again.tsx';
import type { Saving } from './use-save.ts';

/** Whether what is on the page is stored. It says so of exactly that: a change that is not saved takes the word away. */
export function SaveState({ saving, isChanged }: { saving: Saving; isChanged: boolean }) {
  return (
    <span role="status" className="min-w-16 text-small text-muted">
      {saving.busy ? 'Saving …' : !isChanged && saving.isSaved ? 'Saved' : ''}
    </span>
  );
}

/** What stands in the way of a save, and how to go on. */
export function SaveProblems({ saving, zone = 'UTC' }: { saving: Saving; zone?: string }) {
  const { refused, crossed, meanwhile, unsent } = saving;
  return (
    <>
      {refused.length > 0 && (
        <div role="alert" className="my-3 border-l-3 border-broken pl-3">
          <p className="font-strong text-broken">This could not be saved.</p>
          <ul>
            {refused.map((why) => (
              <li key={why}>{why}</li>
            ))}
          </ul>
        </div>
      )}
      {unsent !== null && (
        <div role="alert" className="my-3 flex flex-col items-start gap-1 border-l-3 border-slipping pl-3">
          <p className="font-strong text-slipping">This is not saved yet.</p>
          <p>{unsent}</p>
          <Button className="mt-1" onClick={saving.retry}>
            Save it again
          </Button>
        </div>
      )}
      {meanwhile.length > 0 && (
        <div role="status" className="my-3 border-l-3 border-moving pl-3">
          <p>Other parts of it were changed meanwhile. Both are kept.</p>
          <ul className="text-small text-slate">
            {meanwhile.map((change) => (
              <li key={change}>{change}</li>
            ))}
          </ul>
        </div>
      )}
      {crossed && (
        <div role="alert" className="my-3 flex flex-col items-start gap-1 border-l-3 border-slipping pl-3">
          <p className="font-strong text-slipping">
            {crossed.by} saved this at {formatMoment(crossed.at, zone, 'time')}, while you were editing.
          </p>
          <ul className="text-slate">
            {crossed.changes.map((change) => (
              <li key={change}>{change}</li>
            ))}
          </ul>
          <div className="mt-1 flex gap-2">
            <Button onClick={saving.saveOver}>Save mine over it</Button>
            <Button onClick={() => window.location.reload()}>Take theirs, and lose mine</Button>
          </div>
        </div>
      )}
      {saving.signedOut && <SignInAgain onDone={saving.retry} />}
    </>
  );
}
