import { useEffect } from 'react';
import { useFetcher } from 'react-router';
import type { ScopesAnswer } from '#core/dashboard/scope/saved.ts';
import { useDesk } from './desk-context.ts';

/** The saved scopes of the dashboard on the page, read when something asks for them; a draft and an earlier version have none. */
export function useSavedScopes() {
  const { view } = useDesk();
  const path = view.edition === 'published' ? `/view/${view.id}/scopes` : null;
  const { load, submit, data, state } = useFetcher<ScopesAnswer>();
  useEffect(() => {
    if (path) void load(path);
  }, [load, path]);
  return {
    answer: data,
    isBusy: state !== 'idle',
    ask: (fields: Record<string, string>): void => {
      if (path) void submit(fields, { method: 'post', action: path });
    },
  };
}
