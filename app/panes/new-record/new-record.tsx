import type { NewRecordBody } from '#core/dashboard/pane/kinds/new-record/kind.ts';
import type { NewRecordPane } from '#core/dashboard/pane/kinds/new-record/schema.ts';
import { Quiet } from '../../ui/message.tsx';
import { Scroll } from '../../ui/scroll.tsx';
import { Refusal } from '../act-bar.tsx';
import type { PaneLook, PaneViewProps } from '../view.ts';

/** The form, where the person who looks may fill it in; on paper nothing. */
const NewRecordView = (props: PaneViewProps<NewRecordPane, NewRecordBody>) => (
  <div data-screen-only className="flex min-h-0 flex-1 flex-col">
    <FormOrWhyNot {...props} />
  </div>
);

function FormOrWhyNot({ pane, body, offers, actions }: PaneViewProps<NewRecordPane, NewRecordBody>) {
  if (offers === null || !offers.actions.some(({ name }) => name === pane.action))
    return (
      <Quiet>
        {body.noun.many} cannot be added from here yet: their data set has no action that adds one.
      </Quiet>
    );
  if (offers.refusal !== null) return <Refusal why={offers.refusal} />;
  return (
    <Scroll label="Form" className="min-h-0 flex-1 pt-1 pr-2">
      {actions.form(pane.action)}
    </Scroll>
  );
}

export const newRecord: PaneLook<NewRecordPane, NewRecordBody> = {
  View: NewRecordView,
  hasTwin: false,
  fills: 'some',
};
