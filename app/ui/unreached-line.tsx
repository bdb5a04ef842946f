import X from 'lucide-react/icons/x';
import { useSyncExternalStore } from 'react';
import { Button, IconButton } from './button.tsx';
import { FootLine } from './foot-line.tsx';
import { StateMark } from './state-mark.tsx';
import { closeUnreached, onUnreached, tryNow, unreachedNow } from './unreached.ts';

/** Says that the server cannot be reached, for as long as that is so, and whether something that was sent was lost by it. */
export function UnreachedLine() {
  const unreached = useSyncExternalStore(onUnreached, unreachedNow, () => null);
  return (
    <FootLine name="The connection">
      {unreached && (
        <>
          <StateMark tone={unreached === 'unsent' ? 'broken' : 'waiting'} word="" />
          {unreached === 'waiting' ? (
            <>
              <span className="min-w-0">
                This server cannot be reached just now. The page goes on by itself once it can be.
              </span>
              <Button look="quiet" onClick={tryNow}>
                Try now
              </Button>
            </>
          ) : (
            <>
              <span className="min-w-0">
                This server could not be reached, so what you sent has most likely not arrived. What you typed
                is still here: look at what is there, then send it again.
              </span>
              <IconButton name="Close" onClick={closeUnreached}>
                <X className="size-4" />
              </IconButton>
            </>
          )}
        </>
      )}
    </FootLine>
  );
}
