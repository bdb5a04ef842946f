import { StrictMode, startTransition } from 'react';
import { hydrateRoot } from 'react-dom/client';
import { HydratedRouter } from 'react-router/dom';
import { fetchViewsOf } from './panes/later-view.tsx';
import { sayTakenOver } from './ui/early-click.ts';
import { givePageNonce } from './ui/nonce.ts';
import { keepClicksSteady } from './ui/steady-click.ts';
import { waitForServer } from './ui/unreached.ts';

givePageNonce();
waitForServer();
keepClicksSteady();
await fetchViewsOf(document);

sayTakenOver();
startTransition(() => {
  hydrateRoot(
    document,
    <StrictMode>
      <HydratedRouter />
    </StrictMode>,
  );
});
