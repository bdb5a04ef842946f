import type { ReactNode } from 'react';
import { type ListView, listViewParts } from '#core/dashboard/pane/list-view.ts';
import type { Loosen, RecordList } from '#core/dashboard/pane/shown.ts';
import { DownloadTool } from './download.tsx';
import { Empty } from './empty.tsx';
import { Pager } from './pager.tsx';
import { Search } from './search.tsx';
import type { PaneActions } from './view.ts';

/** What stands round the records of a list: its search, its tools, which of how many are shown, and what is said where there are none. */
export function ListFrame({
  title,
  what,
  body,
  pageSize,
  look,
  actions,
  fileOf,
  tools,
  below,
  children,
}: {
  title: string;
  /** What is downloaded: "All sailings of this table". */
  what: string;
  body: RecordList & { readonly loosen?: readonly Loosen[] };
  pageSize: number;
  look: ListView;
  actions: Pick<PaneActions, 'look' | 'loosen'>;
  fileOf: (format: string) => string;
  tools?: ReactNode;
  /** What stands between the records and their pages. */
  below?: ReactNode;
  children: ReactNode;
}) {
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-2">
      <div className="no-print flex items-center gap-2">
        <Search
          label={`Search ${body.noun.many}`}
          value={look.search}
          onSearch={(search) => actions.look(listViewParts({ search, page: 1 }))}
        />
        <span className="flex-1" />
        <div className="tools">
          <DownloadTool name={`Download ${title}`} what={what} hrefOf={fileOf} />
          {tools}
        </div>
      </div>
      <ListBody body={body} search={look.search} actions={actions}>
        {children}
      </ListBody>
      {below}
      <Pager
        page={body.page}
        size={pageSize}
        total={body.total}
        shown={body.records.length}
        noun={body.noun}
        onPage={(page) => actions.look(listViewParts({ page }))}
      />
    </div>
  );
}

/** The records of a list, or what is said where there are none. */
export function ListBody({
  body: { total, noun, loosen },
  search,
  actions,
  children,
}: {
  body: Pick<RecordList, 'total' | 'noun'> & { readonly loosen?: readonly Loosen[] };
  search: string;
  actions: Pick<PaneActions, 'loosen'>;
  children: ReactNode;
}) {
  if (total !== '0') return children;
  return search ? (
    <p className="py-4 text-muted">
      No {noun.many} contain “{search}”.
    </p>
  ) : (
    <Empty noun={noun.many} loosen={loosen} onLoosen={actions.loosen} />
  );
}
