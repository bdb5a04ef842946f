import { useEffect } from 'react';
import { useNavigate } from 'react-router';
import { isTyping } from '../ui/focus.ts';
import { dashboardLinks } from './dashboard-links.ts';

interface Keys {
  readonly refresh: () => void;
  readonly takeBack: () => void;
  readonly find: () => void;
  readonly briefLink: ((pane: string) => string) | undefined;
}

/** The keys of a dashboard's page: Ctrl or ⌘ `K` find, `s` scope, `r` refresh, `/` search a table, `e` edit a brief, 1…9 dashboards, Esc. */
export function useDeskKeys({ refresh, takeBack, find, briefLink }: Keys): void {
  const navigate = useNavigate();
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      if (event.key === 'k' && (event.ctrlKey || event.metaKey) && !event.altKey && !event.shiftKey) {
        event.preventDefault();
        find();
        return;
      }
      if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target))
        return;
      // What is open on top of the page has the keys first.
      if (document.querySelector('[role="dialog"][data-state="open"], [role="menu"][data-state="open"]'))
        return;
      const pane = document.activeElement?.closest<HTMLElement>('[data-pane]');
      const focusOn = (found: HTMLElement | null | undefined): void => {
        found?.focus();
        event.preventDefault();
      };
      if (event.key === 'r') refresh();
      else if (event.key === 'Escape') takeBack();
      else if (event.key === 's') focusOn(document.querySelector<HTMLElement>('[data-scope-line] button'));
      else if (event.key === '/')
        focusOn((pane ?? document).querySelector<HTMLElement>('[data-table-search]'));
      else if (event.key === 'e' && briefLink && pane?.dataset.pane) navigate(briefLink(pane.dataset.pane));
      else if (/^[1-9]$/.test(event.key)) {
        const link = dashboardLinks()[Number(event.key) - 1];
        if (link) navigate(link.getAttribute('href') ?? '/');
      }
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [refresh, takeBack, find, briefLink, navigate]);
}
