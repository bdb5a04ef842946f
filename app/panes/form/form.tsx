import type { FormBody } from '#core/dashboard/pane/kinds/form/kind.ts';
import type { FormPane } from '#core/dashboard/pane/kinds/form/schema.ts';
import { Quiet } from '../../ui/message.tsx';
import { Scroll } from '../../ui/scroll.tsx';
import { Refusal } from '../act-bar.tsx';
import type { PaneLook, PaneViewProps } from '../view.ts';

/** The form, where the person who looks may fill it in; on paper nothing. */
const FormView = (props: PaneViewProps<FormPane, FormBody>) => (
  <div data-screen-only className="flex min-h-0 flex-1 flex-col">
    <FormOrWhyNot {...props} />
  </div>
);

function FormOrWhyNot({ pane, body, offers, actions }: PaneViewProps<FormPane, FormBody>) {
  const { noun, about } = body;
  if (offers === null || !offers.actions.some(({ name }) => name === pane.action))
    return (
      <Quiet>
        {pane.about === 'new'
          ? `${noun.many} cannot be added from here yet: their data set has no action that adds one.`
          : `${noun.many} cannot be changed from here yet: their data set has no such action.`}
      </Quiet>
    );
  if (offers.refusal !== null) return <Refusal why={offers.refusal} />;
  if (about === null) return <Quiet>There is no such {noun.one} any more.</Quiet>;
  return (
    <Scroll label="Form" className="min-h-0 flex-1 pt-1 pr-2">
      {actions.form(pane.action, about === 'new' ? null : about)}
    </Scroll>
  );
}

export const form: PaneLook<FormPane, FormBody> = {
  View: FormView,
  hasTwin: false,
  fills: 'some',
};
