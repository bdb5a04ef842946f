import { createContext, type ReactNode, useContext } from 'react';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { FormRecord } from '#core/dashboard/pane/kinds/form/kind.ts';
import type { Focus, Scope } from '#core/dashboard/scope/state.ts';
import type { Clock } from '#core/value/period/period.ts';
import type { DashboardView } from '#server/panes/shown.ts';
import type { AskedAct, AskedPaste, InPlace } from './acting/use-acting.ts';
import type { Drill } from './drill-address.ts';

/** What every part of a dashboard's page may need: what is shown, and how to change it. */
export interface DeskContext {
  readonly view: DashboardView;
  readonly context: Context;
  readonly clock: Clock;
  /** Changes the scope as it is when the change is made, which may be later than this page was drawn. */
  setScope(change: (scope: Scope) => Scope): void;
  /** `from`: the table that a record is picked in. */
  pick(focus: Focus, from?: string): void;
  open(drill: Drill): void;
  /** Where {@link open} leads, as an address. */
  hrefOf(drill: Drill): string;
  act(intent: AskedAct): void;
  paste(asked: AskedPaste): void;
  /** The form of an action of a pane, for a record of it or, where that is null, a new one. */
  form(pane: string, action: string, record: FormRecord | null): ReactNode;
  change(asked: InPlace): Promise<string | null>;
  /** Goes up whenever what was answered may no longer hold: records have changed, or somebody has signed in again. */
  readonly turn: number;
  onSignedOut(): void;
  /** The short name of a data set in addresses. */
  shortName(dataSet: string): string;
}

const Desk = createContext<DeskContext | null>(null);
export const DeskProvider = Desk.Provider;

export function useDesk(): DeskContext {
  const desk = useContext(Desk);
  if (!desk) throw new Error('outside a dashboard');
  return desk;
}
