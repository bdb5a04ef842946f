import type { Request } from '#core/dataset/schema.ts';
import { ProblemMessage } from '../../../ui/message.tsx';
import { beforeSteps, choiceOf, withChoice } from '../../data-set-state.ts';
import type { RequestProps, RequestScreen } from '../screen.ts';
import { TableChoiceList } from './choice.tsx';
import { TableStart } from './start.tsx';

type TableRequest = Extract<Request, { kind: 'table' }>;

function TableAnswer({ request, definition, world, tables, onChoose }: RequestProps<TableRequest>) {
  const table = tables.find(({ schema, name }) => schema === request.schema && name === request.table);
  if (table)
    return (
      <TableChoiceList
        table={table}
        tables={tables}
        choice={choiceOf(definition)}
        onChange={(choice) =>
          onChoose(beforeSteps(definition, world, (before) => withChoice(before, table, tables, choice)))
        }
      />
    );
  // A source whose tables could not be listed says so itself.
  if (tables.length === 0) return null;
  return (
    <ProblemMessage
      problem={{
        code: 'missing',
        doing: `Reading ${request.schema}.${request.table}`,
        why: 'the table is not there any more, or this role may not read it',
        mend: 'Everything listed under “What uses it” is without records until it is back.',
      }}
    />
  );
}

export const table: RequestScreen<TableRequest> = {
  Start: TableStart,
  Answer: TableAnswer,
  isKnown: true,
  isSaidBySource: true,
};
