import type { Request } from '#core/dataset/schema.ts';
import type { RequestProps, RequestScreen } from '../screen.ts';
import { LogForm } from './form.tsx';

type LogRequest = Extract<Request, { kind: 'log' }>;

const LogCall = ({ request, onRequest }: RequestProps<LogRequest>) => (
  <LogForm
    request={request}
    onChange={(next) =>
      // Columns belong to a format; those of another are found again.
      onRequest(next.line.kind === request.line.kind ? next : { ...next, columns: [] })
    }
  />
);

export const log: RequestScreen<LogRequest> = {
  Call: LogCall,
  looks: ({ files }) => JSON.stringify(files),
};
