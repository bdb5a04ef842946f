import { withInputRenamed } from '#core/dataset/rename-input.ts';
import type { Request } from '#core/dataset/schema.ts';
import { InputList } from '../../input-list.tsx';
import type { RequestProps, RequestScreen } from '../screen.ts';
import { HttpAnswerForm, HttpCallForm } from './forms.tsx';

type HttpRequest = Extract<Request, { kind: 'http' }>;

function HttpCall({ request, definition, choices, onChange, onRequest }: RequestProps<HttpRequest>) {
  return (
    <>
      <HttpCallForm request={request} onChange={onRequest} />
      <InputList
        inputs={definition.inputs}
        choices={choices}
        written={(name) => `{${name}}`}
        tables={[]}
        onChange={(inputs) => onChange((now) => ({ ...now, inputs }))}
        onRename={(from, to) => onChange((now) => withInputRenamed(now, from, to))}
      />
    </>
  );
}

const HttpAnswer = ({ request, tried, onRequest }: RequestProps<HttpRequest>) =>
  request.columns.length > 0 ? <HttpAnswerForm request={request} tried={tried} onChange={onRequest} /> : null;

export const http: RequestScreen<HttpRequest> = {
  Call: HttpCall,
  Answer: HttpAnswer,
  looks: ({ call, format }) => JSON.stringify([call, format]),
};
