import { StrictMode, startTransition } from 'react';
import { hydrateRoot } from 'react-dom/client';
import { HydratedRouter } from 'react-router/dom';
import { fetchViewsOf } from './panes/later-view.tsx';
import { givePageNonce } from './ui/nonce.ts';

givePageNonce();
await fetchViewsOf(document);

startTransition(() => {
  hydrateRoot(
    document,
    <StrictMode>
      <HydratedRouter />
    </StrictMode>,
  );
});
